// The handles on the picture for the selected filter, by what its parameters declare.
import type { FilterKind } from '$lib/api/client';
import type { Filter } from '$lib/recipe/recipe';
import { arrow } from './arrow';
import { centreHandle } from './centre';
import {
	isFollowing,
	pairOf,
	withinRanges,
	type MovingPoint,
	type PictureHandle,
	type Size
} from './handle';
import { ellipseHandle, radiusHandle } from './radius';
import { roll } from './roll';

const ROLL_ORIENTATIONS = ['rightward', 'downward'];

/** The handles of a filter on a picture of `size`. */
export function filterHandles(
	filter: Filter,
	kind: FilterKind,
	size: Size,
	moving?: MovingPoint
): PictureHandle[] {
	const withControl = (control: string) => kind.parameters.find((each) => each.control === control);
	const point = withControl('point');
	const centre = moving?.at ?? (point ? pairOf(filter, point.name) : ([0.5, 0.5] as const));
	const middle = { x: centre[0] * size.width, y: centre[1] * size.height };
	const found: PictureHandle[] = [];
	if (kind.direction_parameter && !isFollowing(filter, kind))
		found.push(...arrow(filter, kind, size));
	for (const each of kind.parameters)
		if (each.periodic && ROLL_ORIENTATIONS.includes(each.orientation ?? ''))
			found.push(roll(filter, kind, each, size));
	const [ellipse, radius] = [withControl('ellipse'), withControl('radius')];
	if (ellipse) found.push(ellipseHandle(filter, kind, ellipse.name, size));
	if (radius) found.push(radiusHandle(filter, kind, radius.name, middle, size));
	if (point) found.push(...centreHandle(filter, kind, point.name, size, moving));
	const rangeOf = (name: string) => kind.parameters.find((each) => each.name === name);
	return found.map((handle) => withinRanges(handle, rangeOf));
}
