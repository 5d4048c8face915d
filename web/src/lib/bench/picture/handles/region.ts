// The shape of a region.
import { mainValue, type Envelope, type Filter } from '$lib/recipe/recipe';
import { shapeOf } from '$lib/recipe/region';
import {
	KEY_SHARE,
	round,
	type Changes,
	type MovingPoint,
	type PictureHandle,
	type Size
} from './handle';

/** The shape of a region: its centre, and its size by a corner; what is animated is set on the shown frame. */
export function regionHandles(
	filter: Filter,
	title: string,
	size: Size,
	moving: { centre?: MovingPoint; size?: MovingPoint } = {}
): PictureHandle[] {
	const shape = shapeOf(filter);
	if (!shape) return [];
	const pair = (value: Envelope): [number, number] => {
		const main = mainValue(value);
		return Array.isArray(main) ? main : [0.5, 0.5];
	};
	const [cx, cy] = moving.centre?.at ?? pair(shape.centre);
	const [wide, high] = moving.size?.at ?? pair(shape.size);
	const middle = { x: cx * size.width, y: cy * size.height };
	const half = { x: (wide * size.height) / 2, y: (high * size.height) / 2 };
	const changed = (part: object) => ({ region: { ...shape, ...part } }) as unknown as Changes;
	const set = (part: 'centre' | 'size', point: [number, number]) =>
		changed({ [part]: moving[part]?.with(point) ?? point });
	const centred = (x: number, y: number) => set('centre', [round(x), round(y)]);
	const sized = (right: number, down: number) =>
		set('size', [round(Math.max(0.01, right), 3), round(Math.max(0.01, down), 3)]);
	const box = shape.kind === 'box';
	// On an ellipse the handle lies on its edge.
	const share = box ? 1 : Math.SQRT1_2;
	return [
		{
			id: 'region-size',
			shape: 'tip',
			label: `${title} region handle: size, ${Math.round(wide * 100)} × ${Math.round(high * 100)} % of the height`,
			x: middle.x + half.x * share,
			y: middle.y + half.y * share,
			ring: box ? undefined : { ...middle, rx: half.x, ry: half.y },
			frame: box
				? { x: middle.x - half.x, y: middle.y - half.y, w: 2 * half.x, h: 2 * half.y }
				: undefined,
			moved: (to) =>
				sized(
					(2 * Math.abs(to.x - middle.x)) / share / size.height,
					(2 * Math.abs(to.y - middle.y)) / share / size.height
				),
			keyed: (right, down) => sized(wide + right * KEY_SHARE, high + down * KEY_SHARE)
		},
		{
			id: 'region-centre',
			shape: 'point',
			label: `${title} region handle: centre, X ${Math.round(cx * 100)} %, Y ${Math.round(cy * 100)} %`,
			x: middle.x,
			y: middle.y,
			path: moving.centre?.path.map(([x, y]) => ({ x: x * size.width, y: y * size.height })),
			moved: (to) => centred(to.x / size.width, to.y / size.height),
			keyed: (right, down) => centred(cx + right * KEY_SHARE, cy + down * KEY_SHARE)
		}
	];
}
