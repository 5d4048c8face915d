// Draws what the picture shows: the result, the original, or two pictures compared.
import type { Picture } from '$lib/bench/preview/preview.svelte';
import type { Compare } from '$lib/bench/view.svelte';

export type Pictures = {
	result: Picture | undefined;
	/** The original of the shown frame, or the last frame before the cut. */
	one: Picture | undefined;
	/** The first frame after the cut. */
	other: Picture | undefined;
};

// The colours of the two sides, so dark that their sum is nearly white: where both frames agree, the
// picture is nearly as it is.
const OUTGOING_TINT = 'rgb(173 121 75)';
const INCOMING_TINT = 'rgb(71 130 117)';

function tint(
	pen: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D,
	width: number,
	height: number,
	colour: string
) {
	pen.globalCompositeOperation = 'multiply';
	pen.fillStyle = colour;
	pen.fillRect(0, 0, width, height);
}

/** The pictures that a view needs; it waits until all of them are there. */
export function needed(view: Compare, { result, one, other }: Pictures): (Picture | undefined)[] {
	if (view === 'result') return [result];
	if (view === 'original') return [one];
	return view.startsWith('cut') ? [one, other] : [result, one];
}

/** Draw a view; `splitAt` is the split line's share of the width. */
export function drawPicture(
	canvas: HTMLCanvasElement,
	view: Compare,
	pictures: Pictures,
	splitAt: number
): void {
	const [first, second] = needed(view, pictures).map((each) => each?.image);
	const pen = canvas.getContext('2d', { alpha: false });
	if (!first || !pen) return;
	const { width, height } = first;
	if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
	pen.globalCompositeOperation = 'source-over';
	pen.globalAlpha = 1;
	pen.drawImage(first, 0, 0);
	if (!second) return;
	if (view === 'split') {
		const left = Math.round(splitAt * width);
		if (left) pen.drawImage(second, 0, 0, left, height, 0, 0, left, height);
		return;
	}
	if (view === 'cut tints') {
		tint(pen, width, height, OUTGOING_TINT);
		const over = new OffscreenCanvas(width, height);
		const other = over.getContext('2d', { alpha: false });
		if (!other) return;
		other.drawImage(second, 0, 0);
		tint(other, width, height, INCOMING_TINT);
		pen.globalCompositeOperation = 'lighter';
		pen.drawImage(over, 0, 0);
		return;
	}
	if (view === 'cut frames') pen.globalAlpha = 0.5;
	else pen.globalCompositeOperation = 'difference';
	pen.drawImage(second, 0, 0);
}
