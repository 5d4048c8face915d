<script lang="ts">
	import type { Bench } from './bench.svelte';
	import PictureHandles from './PictureHandles.svelte';

	let { bench }: { bench: Bench } = $props();
	let canvas = $state<HTMLCanvasElement>() as HTMLCanvasElement;
	let shownId = $state(0);
	let waiting = $state(true);

	let shape = $derived({ width: bench.cut.width, height: bench.cut.height });

	// Draws the newest picture of the shown frame; an older one stays until a newer is there.
	$effect(() => {
		void bench.preview.frameTick;
		const kind = bench.untreated ? 'source' : 'frame';
		const picture = bench.preview.pictures[kind].get(bench.shown);
		waiting = !picture;
		if (!picture) return;
		const { image } = picture;
		if (canvas.width !== image.width || canvas.height !== image.height) {
			canvas.width = image.width;
			canvas.height = image.height;
		}
		canvas.getContext('2d', { alpha: false })?.drawImage(image, 0, 0);
		shownId = picture.id;
	});
</script>

<div class="surround">
	<canvas
		bind:this={canvas}
		width="640"
		height="360"
		style:aspect-ratio="{shape.width} / {shape.height}"
		data-testid="picture"
		data-shown-id={shownId}
		data-asked-id={bench.preview.id}
		data-shown={bench.shown}
		aria-label="Frame {bench.shown} of the transition{bench.untreated ? ', untreated' : ''}"
	></canvas>
	{#if canvas && !bench.playing && !bench.untreated}<PictureHandles {bench} {canvas} />{/if}
	{#if waiting}
		<p class="note">
			{bench.preview.connected ? 'Reading the clips…' : 'Connecting to the server…'}
		</p>
	{:else if bench.untreated}
		<p class="note">Untreated</p>
	{/if}
</div>

<style>
	.surround {
		position: relative;
		display: flex;
		align-items: center;
		justify-content: center;
		min-width: 0;
		height: 100%;
		padding: 10px 0;
		background: var(--color-surround);
	}
	canvas {
		display: block;
		max-width: 100%;
		max-height: 100%;
		height: 100%;
		background: #000;
		object-fit: contain;
	}
	.note {
		position: absolute;
		top: 8px;
		left: 50%;
		padding: 2px 10px;
		transform: translateX(-50%);
		border-radius: 6px;
		background: var(--color-page);
		color: var(--color-ink);
		font-size: 11px;
	}
</style>
