// Circles and ellipses of a radius.
import type { FilterKind } from '$lib/api/client';
import type { Filter } from '$lib/recipe/recipe';
import { clamped } from '$lib/ui/numbers';
import {
	KEY_SHARE,
	numberOf,
	round,
	withMain,
	type PictureHandle,
	type Size,
	type Spot
} from './handle';

export function radiusHandle(
	filter: Filter,
	kind: FilterKind,
	name: string,
	middle: Spot,
	size: Size
): PictureHandle {
	const value = numberOf(filter, name);
	const far = value * size.height;
	return {
		id: 'radius',
		shape: 'tip',
		label: `${kind.title} handle: radius, ${round(value * 100, 1)} % of the height`,
		x: middle.x + far,
		y: middle.y,
		ring: { ...middle, rx: far, ry: far },
		moved: (to) =>
			withMain(filter, name, round(Math.hypot(to.x - middle.x, to.y - middle.y) / size.height, 3)),
		keyed: (right, down) =>
			withMain(filter, name, round(Math.max(0, value + (right - down) * KEY_SHARE), 3))
	};
}

/** The ellipse of a radius, in shape between the frame (`aspect` 0) and a circle (1). */
export function ellipseHandle(
	filter: Filter,
	kind: FilterKind,
	name: string,
	size: Size
): PictureHandle {
	const [value, aspect] = [numberOf(filter, name), numberOf(filter, 'aspect')];
	const half = Math.hypot(size.width, size.height) / 2;
	const side = (length: number) => (length / 2 / half) ** (1 - aspect) * 0.5 ** (aspect / 2);
	const [wide, high] = [side(size.width), side(size.height)];
	// The corner is at distance 1.
	const corner = Math.hypot(size.width / 2 / wide, size.height / 2 / high);
	const [rx, ry] = [wide * corner * value, high * corner * value];
	const middle = { x: size.width / 2, y: size.height / 2 };
	return {
		id: 'ellipse',
		shape: 'tip',
		label: `${kind.title} handle: radius, ${Math.round(value * 100)} %`,
		x: middle.x,
		y: middle.y - ry,
		ring: { ...middle, rx, ry },
		moved: (to) =>
			withMain(filter, name, round(clamped(Math.abs(middle.y - to.y) / (high * corner), 0, 1), 3)),
		keyed: (right, down) =>
			withMain(filter, name, round(clamped(value + (right - down) * KEY_SHARE, 0, 1), 3))
	};
}
