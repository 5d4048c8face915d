// The point about which a filter works.
import type { FilterKind } from '$lib/api/client';
import { movesOf, type Envelope, type Filter } from '$lib/recipe/recipe';
import {
	KEY_SHARE,
	pairOf,
	round,
	withMain,
	type MovingPoint,
	type PictureHandle,
	type Size
} from './handle';

/** The point about which a filter works; one that follows another's has no handle of its own. */
export function centreHandle(
	filter: Filter,
	kind: FilterKind,
	name: string,
	size: Size,
	moving?: MovingPoint
): PictureHandle[] {
	if (movesOf(filter[name] as Envelope) === 'follow') return [];
	const [x, y] = moving?.at ?? pairOf(filter, name);
	const setTo = (right: number, down: number) => {
		const point: [number, number] = [round(right), round(down)];
		return moving ? { [name]: moving.with(point) } : withMain(filter, name, point);
	};
	return [
		{
			id: 'centre',
			shape: 'point',
			label: `${kind.title} handle: centre, X ${Math.round(x * 100)} %, Y ${Math.round(y * 100)} %`,
			x: x * size.width,
			y: y * size.height,
			path: moving?.path.map(([right, down]) => ({ x: right * size.width, y: down * size.height })),
			moved: (to) => setTo(to.x / size.width, to.y / size.height),
			keyed: (right, down) => setTo(x + right * KEY_SHARE, y + down * KEY_SHARE)
		}
	];
}
