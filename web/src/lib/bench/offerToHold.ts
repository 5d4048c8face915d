// What is offered where a recipe that was just applied lacks spare frames.
import { toast } from '$lib/ui/toast.svelte';
import type { Bench } from './bench.svelte';

/** Say what is missing, once it is known, and offer to hold the end frames. */
export async function offerToHold({ transition, preview }: Bench, name: string) {
	const applied = transition.recipe;
	await preview.curvesOfNewest();
	if (transition.recipe !== applied || !preview.shortages.length) return;
	const missing = preview.shortages.map(({ message }) => message).join(' ');
	toast.info(`${name}: ${missing} Hold the end frames, or shorten the mix in its lane.`, {
		label: 'Hold the end frames',
		run: () =>
			transition.change('Hold the end frames', (recipe) => ({ ...recipe, hold_frames: true }))
	});
}
