// Copy and paste on the bench.
import type { Catalogue } from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import type { Bench } from '$lib/bench/bench.svelte';
import { clipboard, copiedName } from '$lib/bench/clipboard.svelte';
import {
	freeId,
	kindOf,
	movesOf,
	USUAL_LAYER,
	withMoves,
	type Envelope,
	type Follow,
	type Filter
} from '$lib/recipe/recipe';

/** Copy the selected filter; with the mix selected, the whole transition. */
export function copySelected(bench: Bench) {
	const filter = bench.transition.recipe.filters.find((each) => each.id === bench.view.selected);
	const kind = filter && kindOf(bench.catalogue, filter);
	if (!filter || !kind) {
		copyTransition(bench);
		return;
	}
	clipboard.put({ kind: 'filter', title: kind.title, filter });
	toast.info(`Copied ${kind.title.toLowerCase()}`);
}

/** Copy the window, the mix and every filter. */
export function copyTransition(bench: Bench) {
	const { before, after, recipe } = bench.transition;
	clipboard.put({ kind: 'transition', before, after, recipe });
	toast.info(`Copied “${recipe.name}”`);
}

/** Paste on this cut. */
export function paste(bench: Bench) {
	const { copied } = clipboard;
	if (!copied) {
		toast.info('Nothing to paste. Ctrl C copies the selected filter.');
	} else if (copied.kind === 'filter') {
		insertFilter(bench, copied.filter, `Paste ${copied.title.toLowerCase()}`);
	} else if (copied.kind === 'transition') {
		bench.transition.setWindow(copied.before, copied.after);
		bench.transition.change(`Paste ${copiedName(copied)}`, () => copied.recipe);
		bench.view.select(copied.recipe.filters[0]?.id ?? 'mix');
	} else {
		toast.info(
			copied.kind === 'curve'
				? 'The clipboard holds a curve. Paste it with the Paste button of a curve.'
				: 'The clipboard holds keyframes. Paste them with Ctrl V on a keyframe of an opened lane.'
		);
	}
}

/** Put a copy of a filter after the selected one, and select it. */
export function insertFilter(bench: Bench, copied: Filter, label: string) {
	const { filters } = bench.transition.recipe;
	const id = freeId(
		copied.id.replace(/-\d+$/, ''),
		filters.map((each) => each.id)
	);
	const here = filters.map((each) => each.id);
	const filter = withKnownFollows(bench.catalogue, { ...copied, id }, here);
	const place = filters.findIndex((each) => each.id === bench.view.selected);
	bench.transition.change(label, (recipe) => ({
		...recipe,
		// What acts on a subject needs one that is shown.
		subject_layer:
			recipe.subject_layer ?? (filter.side === 'subject' ? { ...USUAL_LAYER } : undefined),
		filters: recipe.filters.toSpliced(place < 0 ? filters.length : place + 1, 0, filter)
	}));
	bench.view.select(id);
}

/** The filter with a swell in place of each follow whose filter is not among `here`. */
export function withKnownFollows(catalogue: Catalogue, filter: Filter, here: string[]): Filter {
	const made = { ...filter };
	for (const parameter of kindOf(catalogue, filter)?.parameters ?? []) {
		const envelope = filter[parameter.name] as Envelope;
		if (movesOf(envelope) === 'follow' && !here.includes((envelope as Follow).filter))
			made[parameter.name] = withMoves(envelope, 'swell', parameter);
	}
	return made;
}
