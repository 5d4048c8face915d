<script lang="ts">
	// The waveform of a placed clip.
	import { createQuery } from '@tanstack/svelte-query';
	import { api, request, type Placed } from '$lib/api/client';

	type Props = { placed: Placed; rate: number; left: number; width: number; height: number };
	let { placed, rate, left, width, height }: Props = $props();

	const MOST_PX = 8192;
	let canvas: HTMLCanvasElement;
	let clipId = $derived(placed.clip.id);

	// Read once for each clip. The edit can be worked on without waveforms: a failure has no message.
	const waveform = createQuery(() => ({
		queryKey: ['waveform', clipId],
		queryFn: () =>
			request(api.GET('/api/clips/{clip_id}/waveform', { params: { path: { clip_id: clipId } } })),
		enabled: placed.clip.has_sound,
		staleTime: Infinity,
		retry: false
	}));

	$effect(() => {
		const shown = Math.max(1, Math.min(MOST_PX, Math.round(width)));
		canvas.width = shown;
		canvas.height = height;
		const pen = canvas.getContext('2d');
		const found = waveform.data;
		if (!pen || !found) return;
		pen.fillStyle = placed.muted ? '#4a4a4a' : '#8b8780';
		const perPixel =
			((placed.end_shown - placed.first_shown) / rate / shown) * found.peaks_per_second;
		const first = (placed.first_shown / rate) * found.peaks_per_second;
		for (let x = 0; x < shown; x += 1) {
			const from = Math.floor(first + x * perPixel);
			const span = found.peaks.slice(from, Math.max(from + 1, Math.ceil(from + perPixel)));
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
	aria-hidden="true"
></canvas>

<style>
	canvas {
		position: absolute;
		top: 0;
		background: #222;
	}
</style>
