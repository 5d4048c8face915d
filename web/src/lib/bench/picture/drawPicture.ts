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
	if (view === 'cut frames') pen.globalAlpha = 0.5;
	else pen.globalCompositeOperation = 'difference';
	pen.drawImage(second, 0, 0);
}
