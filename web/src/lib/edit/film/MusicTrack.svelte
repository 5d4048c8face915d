<script lang="ts">
	// The music of the edit under its run: the waveform of the part that is heard.
	import { createQuery } from '@tanstack/svelte-query';
	import type { Music } from '$lib/api/client';
	import { drawWaveform, waveformOf } from '$lib/clips/waveform';

	type Props = {
		music: Music;
		/** Frames a second, and pixels a frame. */
		rate: number;
		scale: number;
		/** Pixels of the whole edit. */
		width: number;
		height: number;
	};
	let { music, rate, scale, width, height }: Props = $props();

	let canvas: HTMLCanvasElement;
	const waveform = createQuery(() => waveformOf(music.clip.id));

	$effect(() => {
		const part = { startS: -music.offset_s, lengthS: width / scale / rate };
		drawWaveform(canvas, waveform.data, { width, height }, part, '#a39b8c');
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
