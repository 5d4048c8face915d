<script lang="ts">
	// The waveform of a placed clip.
	import { api, request, type Placed } from '$lib/api/client';

	type Props = { placed: Placed; rate: number; left: number; width: number; height: number };
	let { placed, rate, left, width, height }: Props = $props();

	let peaks = $state.raw<{ peaks_per_second: number; peaks: number[] } | null>(null);
	let canvas: HTMLCanvasElement;

	$effect(() => {
		const path = { params: { path: { clip_id: placed.clip.id } } };
		// The edit can be worked on without waveforms: no message.
		if (placed.clip.has_sound)
			request(api.GET('/api/clips/{clip_id}/waveform', path)).then(
				(waveform) => (peaks = waveform),
				() => (peaks = null)
			);
	});

	$effect(() => {
		const shown = Math.max(1, Math.min(8192, Math.round(width)));
		canvas.width = shown;
		canvas.height = height;
		const pen = canvas.getContext('2d');
		if (!pen || !peaks) return;
		pen.fillStyle = placed.muted ? '#4a4a4a' : '#8b8780';
		const perPixel = ((placed.out_frame - placed.in_frame) / rate / shown) * peaks.peaks_per_second;
		const first = (placed.in_frame / rate) * peaks.peaks_per_second;
		for (let x = 0; x < shown; x += 1) {
			const from = Math.floor(first + x * perPixel);
			const span = peaks.peaks.slice(from, Math.max(from + 1, Math.ceil(from + perPixel)));
			const tall = Math.max(1, Math.max(0, ...span) * height);
			pen.fillRect(x, (height - tall) / 2, 1, tall);
		}
	});
</script>

<canvas
	bind:this={canvas}
	style:left="{left}px"
	style:width="{Math.max(1, width)}px"
	style:height="{height}px"
	title={placed.muted ? `${placed.clip.name}: muted` : placed.clip.name}
	aria-hidden="true"
></canvas>

<style>
	canvas {
		position: absolute;
		top: 0;
		background: #222;
	}
</style>
