// Whose curve it is: how it is read from a recipe and written back, for what is asked of the server.
import type { Parameter } from '$lib/api/client';
import type { ClipSide } from '$lib/bench/cutTypes';
import { retimeOf } from '$lib/bench/speed/speed';
import type { Envelope, Recipe } from '$lib/recipe/recipe';

export type CurveOwner = {
	/** The kind of the filter, or `retime`. */
	filter: string;
	name: string;
	/** What the curve is of, for the history: "radius of gaussian blur". */
	title: string;
	parameter: Parameter;
	read: (recipe: Recipe) => Envelope | undefined;
	write: (recipe: Recipe, next: Envelope) => Recipe;
};

/** The curve of a filter's parameter. */
export function filterCurve(
	id: string,
	kind: { kind: string; title: string },
	parameter: Parameter
): CurveOwner {
	return {
		filter: kind.kind,
		name: parameter.name,
		title: `${kind.title.toLowerCase()} ${parameter.label.toLowerCase()}`,
		parameter,
		read: (recipe) =>
			recipe.filters.find((each) => each.id === id)?.[parameter.name] as Envelope | undefined,
		write: (recipe, next) => ({
			...recipe,
			filters: recipe.filters.map((each) =>
				each.id === id ? { ...each, [parameter.name]: next } : each
			)
		})
	};
}

/** The speed of a clip. */
export function speedCurve(side: ClipSide, parameter: Parameter): CurveOwner {
	return {
		filter: 'retime',
		name: 'speed',
		title: `speed of the ${side} clip`,
		parameter,
		read: (recipe) => retimeOf(recipe, side).speed,
		write: (recipe, next) => ({
			...recipe,
			retime: {
				...(recipe.retime as object),
				[side]: { ...retimeOf(recipe, side), speed: next }
			}
		})
	};
}
