// The waveform of a sound: read once, drawn on a canvas of at most some thousand pixels.
import { api, request } from '$lib/api/client';

const MOST_PX = 8192;

export type Peaks = { peaks: number[]; peaks_per_second: number };

/** The query that reads a clip's waveform, once. The edit can be worked on without: it fails silently. */
export function waveformOf(clipId: string, enabled = true) {
	return {
		queryKey: ['waveform', clipId],
		queryFn: () =>
			request(api.GET('/api/clips/{clip_id}/waveform', { params: { path: { clip_id: clipId } } })),
		enabled,
		staleTime: Infinity,
		retry: false
	};
}

/** Draw `lengthS` seconds from `startS` of a sound over a canvas of `width`; before it nothing is drawn. */
export function drawWaveform(
	canvas: HTMLCanvasElement,
	sound: Peaks | undefined,
	size: { width: number; height: number },
	part: { startS: number; lengthS: number },
	colour: string
) {
	const shown = Math.max(1, Math.min(MOST_PX, Math.round(size.width)));
	canvas.width = shown;
	canvas.height = size.height;
	const pen = canvas.getContext('2d');
	if (!pen || !sound) return;
	pen.fillStyle = colour;
	const perPixel = (part.lengthS / shown) * sound.peaks_per_second;
	const first = part.startS * sound.peaks_per_second;
	for (let x = 0; x < shown; x += 1) {
		const [from, to] = [first + x * perPixel, first + (x + 1) * perPixel];
		if (to < 0 || from >= sound.peaks.length) continue;
		const begin = Math.max(0, Math.floor(from));
		const span = sound.peaks.slice(begin, Math.max(begin + 1, Math.ceil(to)));
		const tall = Math.max(1, Math.max(0, ...span) * size.height);
		pen.fillRect(x, (size.height - tall) / 2, 1, tall);
	}
}
