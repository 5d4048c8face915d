<script lang="ts">
	// The waveform of a placed clip.
	import { createQuery } from '@tanstack/svelte-query';
	import type { Placed } from '$lib/api/client';
	import { drawWaveform, waveformOf } from './waveform';

	type Props = { placed: Placed; rate: number; left: number; width: number; height: number };
	let { placed, rate, left, width, height }: Props = $props();

	let canvas: HTMLCanvasElement;
	const waveform = createQuery(() => waveformOf(placed.clip.id, placed.clip.has_sound));

	$effect(() => {
		const { first_shown, end_shown, muted } = placed;
		const part = { startS: first_shown / rate, lengthS: (end_shown - first_shown) / rate };
		drawWaveform(canvas, waveform.data, { width, height }, part, muted ? '#4a4a4a' : '#8b8780');
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
