// Cut checks as the interface shows them: a status has a shape as well as a colour.
import { capitalised } from '$lib/ui/numbers';

export const STATUS_MARK = { ok: '✓', warning: '◯', failed: '▮' } as const;

/** "spare_frames" as "Spare frames". */
export function checkName(id: string): string {
	return capitalised(id.replaceAll('_', ' '));
}
