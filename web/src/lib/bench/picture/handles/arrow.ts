// The arrow of a direction, and of the length of what lies along it.
import type { FilterKind } from '$lib/api/client';
import { movesOf, type Envelope, type Filter } from '$lib/recipe/recipe';
import { clamped } from '$lib/ui/numbers';
import { numberOf, round, withMain, type PictureHandle, type Size } from './handle';

const LEAST_ARM = 0.12;
const SNAP_DEG = 15;

/** The arrow of a direction; where the filter has a length, its tip is at half of it. */
export function arrow(filter: Filter, kind: FilterKind, size: Size): PictureHandle[] {
	const angled = kind.parameters.find((each) => each.name === kind.direction_parameter);
	if (!angled || movesOf(filter[angled.name] as Envelope) !== 'hold') return [];
	const reached = kind.parameters.find((each) => each.unit === 'height' && each.rest === 0);
	const angle = numberOf(filter, angled.name);
	const half = reached ? Math.abs(numberOf(filter, reached.name)) / 2 : LEAST_ARM;
	const arm = Math.max(half, LEAST_ARM) * size.height;
	const radians = (angle * Math.PI) / 180;
	const [dx, dy] = [arm * Math.cos(radians), -arm * Math.sin(radians)];
	const middle = { x: size.width / 2, y: size.height / 2 };
	const turned = (by: number) => withMain(filter, angled.name, round(angle + by, 2));
	return [
		{
			id: 'angle',
			shape: 'tip',
			label: `${kind.title} handle: angle, ${angle} degrees`,
			x: middle.x + dx,
			y: middle.y + dy,
			from: { x: middle.x - dx, y: middle.y - dy },
			moved: (to, snap) => {
				const step = snap ? SNAP_DEG : 1;
				const far = Math.hypot(to.x - middle.x, to.y - middle.y);
				const now = (Math.atan2(middle.y - to.y, to.x - middle.x) * 180) / Math.PI;
				const changes = withMain(filter, angled.name, Math.round(now / step) * step);
				const longer = reached && far > LEAST_ARM * size.height;
				return longer
					? { ...changes, ...withMain(filter, reached.name, lengthOf(far, size, reached)) }
					: changes;
			},
			keyed: (right, down) => turned(-right - down)
		}
	];
}

function lengthOf(far: number, size: Size, of: { low?: number | null; high?: number | null }) {
	return round(clamped((2 * far) / size.height, of.low ?? 0, of.high ?? Infinity), 3);
}
