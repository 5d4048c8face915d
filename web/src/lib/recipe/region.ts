// Where in the picture a filter acts.
import usual from '$lib/api/generated/usual.json';
import type { Envelope, Filter, Recipe } from './recipe';

export type Shape = {
	kind: 'ellipse' | 'box';
	centre: Envelope;
	size: Envelope;
	feather: number;
	invert: boolean;
};
export type Region = { kind: 'subject' } | { kind: 'background' } | Shape;
export type RegionKind = 'everywhere' | Region['kind'];

export const REGIONS: { value: RegionKind; name: string }[] = [
	{ value: 'everywhere', name: 'Everywhere' },
	{ value: 'subject', name: 'Subject' },
	{ value: 'background', name: 'Background' },
	{ value: 'ellipse', name: 'Ellipse' },
	{ value: 'box', name: 'Box' }
];
const USUAL = usual.shape as unknown as Omit<Shape, 'kind'>;

export function regionOf(filter: Filter): Region | null {
	return ((filter as { region?: unknown }).region ?? null) as Region | null;
}

export function shapeOf(filter: Filter): Shape | null {
	const region = regionOf(filter);
	return region && 'centre' in region ? region : null;
}

export function withRegion(filter: Filter, region: Region | null): Filter {
	return { ...filter, region } as unknown as Filter;
}

/** The region of another kind; a shape keeps where it is. */
export function ofKind(region: Region | null, kind: RegionKind): Region | null {
	if (kind === 'everywhere') return null;
	if (kind === 'subject' || kind === 'background') return { kind };
	return { ...USUAL, ...(region && 'centre' in region ? region : {}), kind };
}

/** Whether a recipe treats the subject of a clip apart. */
export function usesSubject(recipe: Recipe): boolean {
	const ramps = (recipe.retime ?? {}) as Record<string, { slips?: unknown[] } | undefined>;
	return (
		!!recipe.subject_layer ||
		Object.values(ramps).some((each) => each?.slips?.length) ||
		recipe.filters.some((each) => ['subject', 'background'].includes(regionOf(each)?.kind ?? ''))
	);
}
