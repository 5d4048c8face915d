<script lang="ts">
	// The same frame of a pinned variant, in step with the picture beside it.
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { Preview } from '$lib/bench/preview/preview.svelte';

	let { bench, preview, name }: { bench: Bench; preview: Preview; name: string } = $props();

	let canvas: HTMLCanvasElement;

	$effect(() => preview.showFrame(bench.view.shown, []));

	$effect(() => {
		void preview.frameTick;
		const image = preview.pictures.frame.get(bench.view.shown)?.image;
		if (!image) return;
		if (canvas.width !== image.width || canvas.height !== image.height) {
			canvas.width = image.width;
			canvas.height = image.height;
		}
		canvas.getContext('2d', { alpha: false })?.drawImage(image, 0, 0);
	});
</script>

<figure>
	<!-- svelte-ignore a11y_no_interactive_element_to_noninteractive_role -->
	<canvas
		bind:this={canvas}
		width="640"
		height="360"
		style:aspect-ratio="{bench.transition.cut.width} / {bench.transition.cut.height}"
		data-testid="beside"
		role="img"
		aria-label="Frame {bench.view.shown} of variant {name}"
	></canvas>
	<figcaption class="small">Variant {name}</figcaption>
</figure>

<style>
	figure {
		position: relative;
		display: flex;
		width: calc(50% - 4px);
		align-items: center;
		justify-content: center;
		min-width: 0;
	}
	canvas {
		width: 100%;
		max-width: 100%;
		max-height: 100%;
		background: #000;
	}
	figcaption {
		position: absolute;
		bottom: 8px;
		left: 8px;
		padding: 2px 6px;
		border-radius: 4px;
		background: #1c1c1ccc;
	}
</style>
