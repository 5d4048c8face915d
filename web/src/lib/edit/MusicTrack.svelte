<script lang="ts">
	// The music of the edit under its run: the waveform of the part that is heard.
	import { createQuery } from '@tanstack/svelte-query';
	import { api, request } from '$lib/api/client';
	import type { Music } from './editDocument.svelte';

	type Props = {
		music: Music;
		/** Frames a second, and pixels a frame. */
		rate: number;
		scale: number;
		/** Pixels of the whole run. */
		width: number;
		height: number;
	};
	let { music, rate, scale, width, height }: Props = $props();

	const MOST_PX = 8192;
	let canvas: HTMLCanvasElement;
	let clipId = $derived(music.clip.id);
	let perSecond = $derived(rate * scale);

	const waveform = createQuery(() => ({
		queryKey: ['waveform', clipId],
		queryFn: () =>
			request(api.GET('/api/clips/{clip_id}/waveform', { params: { path: { clip_id: clipId } } })),
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
		pen.fillStyle = '#a39b8c';
		const secondsAPixel = width / shown / perSecond;
		for (let x = 0; x < shown; x += 1) {
			const from = (x * secondsAPixel - music.offset_s) * found.peaks_per_second;
			const to = from + secondsAPixel * found.peaks_per_second;
			if (to < 0 || from >= found.peaks.length) continue;
			const first = Math.max(0, Math.floor(from));
			const span = found.peaks.slice(first, Math.max(first + 1, Math.ceil(to)));
			const tall = Math.max(1, Math.max(0, ...span) * height);
			pen.fillRect(x, (height - tall) / 2, 1, tall);
		}
	});
</script>

<div class="track" style:height="{height}px">
	<canvas bind:this={canvas} style:width="{width}px" style:height="{height}px" aria-hidden="true"
	></canvas>
	<span class="small">Music: {music.clip.name}</span>
</div>

<style>
	.track {
		position: relative;
		margin-top: 3px;
		background: #262420;
	}
	canvas {
		display: block;
	}
	span {
		position: absolute;
		top: 2px;
		left: 6px;
		padding: 0 4px;
		border-radius: 3px;
		background: #1c1c1cc0;
	}
</style>
