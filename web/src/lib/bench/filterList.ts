// Filters added, removed and reordered.
import type { BookRecipe, FilterKind } from '$lib/api/client';
import { nameOf, newFilter, type Envelope, type Filter, type Recipe } from '$lib/recipe/recipe';
import { onFrames } from '$lib/recipe/times';
import { withKnownAccent } from '$lib/recipe/accent';
import { announce } from '$lib/ui/announce.svelte';
import { keepingFocus } from '$lib/ui/focus';
import type { Bench } from './bench.svelte';
import { withKnownFollows } from './copying';

/** Add a filter of a kind, and select it. */
export function addFilter({ transition, view }: Bench, kind: FilterKind) {
	const taken = transition.recipe.filters.map((each) => each.id);
	const filter = newFilter(kind, taken);
	for (const { name } of kind.parameters)
		filter[name] = onFrames(filter[name] as Envelope, undefined, transition.recipe);
	transition.change(`Add ${kind.title.toLowerCase()}`, (recipe) => ({
		...recipe,
		filters: [...recipe.filters, filter]
	}));
	view.select(filter.id);
}

/** Remove a filter; blurs that followed it swell instead. The next one is selected. */
export function removeFilter(bench: Bench, filter: Filter) {
	void keepingFocus(
		() => takeOut(bench, filter),
		() => laneButton(bench.view.selected)
	);
}

/** The button that opens a lane; that of Add filter where there is none. */
function laneButton(id: string): HTMLElement | null {
	const lane = document.querySelector(`[data-filter="${id}"] button.name`);
	return (lane ?? document.querySelector('[data-add-filter]')) as HTMLElement | null;
}

function takeOut({ transition, view, catalogue }: Bench, filter: Filter) {
	const place = transition.recipe.filters.findIndex((each) => each.id === filter.id);
	transition.change(`Remove ${nameOf(catalogue, filter)}`, (recipe) => {
		const left = recipe.filters.filter((each) => each.id !== filter.id);
		const here = left.map((each) => each.id);
		const filters = left.map((each) => withKnownFollows(catalogue, each, here));
		return withKnownAccent({ ...recipe, filters });
	});
	const { filters } = transition.recipe;
	view.select(filters[Math.min(place, filters.length - 1)]?.id ?? 'mix');
}

/** Move a filter by places in the order of work. */
export function moveFilter({ transition, catalogue }: Bench, filter: Filter, by: number) {
	const { filters } = transition.recipe;
	const from = filters.findIndex((each) => each.id === filter.id);
	const to = from + by;
	if (from < 0 || to < 0 || to >= filters.length) return;
	const move = () =>
		transition.change(`Move ${nameOf(catalogue, filter)}`, (recipe) => {
			const others = recipe.filters.filter((each) => each.id !== filter.id);
			const moved = recipe.filters.find((each) => each.id === filter.id);
			return moved ? { ...recipe, filters: others.toSpliced(to, 0, moved) } : recipe;
		});
	void keepingFocus(move, () => laneButton(filter.id));
	announce(`${nameOf(catalogue, filter)}: place ${to + 1} of ${filters.length}`);
}

/** Apply a recipe with its suggested window, limited by the clips. */
export function applyRecipe({ transition, view }: Bench, entry: BookRecipe) {
	transition.setWindow(entry.before, entry.after);
	transition.change(`Apply recipe ${entry.name}`, () => ({
		...(entry.recipe as Recipe),
		name: entry.name
	}));
	view.select(transition.recipe.filters[0]?.id ?? 'mix');
}
