// Presets: single filters that are saved by themselves, to be added to other transitions.
import { api, Refusal, request, type Catalogue, type Preset } from '$lib/api/client';
import type { Filter } from '$lib/recipe/recipe';
import { toast } from '$lib/ui/toast.svelte';
import type { Bench } from './bench.svelte';
import { insertFilter, withKnownFollows } from './copying';

export const PRESETS = 'presets';

export function readPresets(rate: string): Promise<Preset[]> {
	return request(api.GET('/api/presets', { params: { query: { rate } } }));
}

/** Save a filter under a name; one of that name is replaced once that is confirmed. */
export async function savePreset(
	bench: Bench,
	filter: Filter,
	name: string,
	overwrite = false
): Promise<boolean> {
	const { recipe, before, after, cut } = bench.transition;
	const alone = {
		...recipe,
		window: { before, after, rate: cut.rate },
		// What follows another filter swells where that one is not.
		filters: [withKnownFollows(bench.catalogue, filter, [])],
		mix: { kind: 'cut' },
		accent: undefined
	};
	try {
		const body = { name, recipe: alone as never, overwrite };
		const saved = await request(api.POST('/api/presets', { body }));
		toast.info(`Saved the preset “${saved.name}”. It stands first in Add filter.`);
		return true;
	} catch (error) {
		const isTaken = !overwrite && error instanceof Refusal && error.status === 409;
		toast.error(
			error,
			isTaken
				? { label: 'Replace', run: () => void savePreset(bench, filter, name, true) }
				: undefined
		);
		return false;
	}
}

/** Add the filter of a preset after the selected one. */
export function addPreset(bench: Bench, preset: Preset) {
	if (!preset.filter) return;
	const filter = { ...preset.filter, name: preset.name } as Filter;
	insertFilter(bench, filter, `Add ${preset.name}`);
}

export async function deletePreset(preset: Preset): Promise<void> {
	const params = { path: { preset_id: preset.id } };
	try {
		await request(api.DELETE('/api/presets/{preset_id}', { params }));
	} catch (error) {
		toast.error(error);
	}
}

/** What a preset is, in words: its kind. */
export function presetKind(catalogue: Catalogue, preset: Preset): string {
	if (!preset.filter) return 'Cannot be read by this version';
	const { kind } = preset.filter as Filter;
	return catalogue.filters.find((each) => each.kind === kind)?.title ?? kind;
}
