// The easings that are one click away, by what a movement does under them.
import type { Easing } from './recipe';

type Shape = { name: string; easing: Easing };

const SWINGS = 1.5;
const CALM = 5;
const STOPS = 16;

/** A damped swing about the end, which it reaches at last. */
function settling(): Easing {
	const stops = Array.from({ length: STOPS + 1 }, (_, n) => {
		const t = n / STOPS;
		const swing = Math.exp(-CALM * t) * Math.cos(SWINGS * 2 * Math.PI * t);
		return n === STOPS ? 1 : Number((1 - swing).toFixed(3));
	});
	return `linear(${stops.join(', ')})`;
}

export const GALLERY: Shape[] = [
	{ name: 'Constant speed', easing: 'linear' },
	{ name: 'Ease in', easing: 'ease-in' },
	{ name: 'Ease out', easing: 'ease-out' },
	{ name: 'Slow–fast–slow', easing: 'ease-in-out' },
	{ name: 'Slow–fast–slow, strong', easing: { steepness: 0.7 } },
	{ name: 'Slow–fast–slow, hard', easing: { steepness: 0.9 } },
	{ name: 'Fast–hang–fast', easing: 'cubic-bezier(0.1,0.7,0.9,0.3)' },
	{ name: 'Draw back first', easing: 'cubic-bezier(0.5,-0.5,0.7,1)' },
	{ name: 'Overshoot and settle', easing: settling() },
	{ name: 'Steps', easing: 'steps(4,end)' },
	{ name: 'Hold', easing: 'steps(1,end)' }
];

/** The name of an easing in the gallery, undefined where it is another. */
export function galleryName(easing: Easing): string | undefined {
	const text = JSON.stringify(easing);
	return GALLERY.find((each) => JSON.stringify(each.easing) === text)?.name;
}
