// How a verdict is marked: by shape as well as by colour.
export const VERDICT_MARK = { ok: '✓', look: '◯', broken: '▮' } as const;
