<script lang="ts">
	import type { Bench } from './bench.svelte';
	import BesidePicture from './BesidePicture.svelte';
	import PictureHandles from './PictureHandles.svelte';

	let { bench }: { bench: Bench } = $props();
	let canvas = $state<HTMLCanvasElement>() as HTMLCanvasElement;
	let shownId = $state(0);
	let waiting = $state(true);

	let shape = $derived({ width: bench.cut.width, height: bench.cut.height });

	// Draws the newest pictures; an older one stays until a newer one arrives. Pictures of other frames
	// arrive all the time and change nothing here.
	let drawn: unknown[] = [];
	$effect(() => {
		void bench.preview.frameTick;
		const mode = bench.comparing;
		const result = bench.preview.pictures.frame.get(bench.shown);
		const [one, other] = [
			bench.preview.pictures.source.get(mode.startsWith('cut') ? -1 : bench.shown),
			bench.preview.pictures.source.get(0)
		];
		const base = mode === 'result' || mode === 'split' ? result : one;
		const needed = { result: [result], original: [one], split: [result, one] };
		const both = { 'cut frames': [one, other], 'cut difference': [one, other] };
		const all = { ...needed, ...both, difference: [result, one] }[mode];
		waiting = all.some((each) => !each);
		if (waiting || !base) return;
		const { image } = base;
		const drawing = [canvas, mode, mode === 'split' && bench.splitAt, ...all];
		if (drawing.length === drawn.length && drawing.every((each, n) => each === drawn[n])) return;
		drawn = drawing;
		if (canvas.width !== image.width || canvas.height !== image.height) {
			canvas.width = image.width;
			canvas.height = image.height;
		}
		const pen = canvas.getContext('2d', { alpha: false });
		if (!pen) return;
		pen.globalCompositeOperation = 'source-over';
		pen.globalAlpha = 1;
		pen.drawImage(image, 0, 0);
		if (mode === 'split' && one) {
			const width = Math.round(bench.splitAt * image.width);
			if (width) pen.drawImage(one.image, 0, 0, width, image.height, 0, 0, width, image.height);
		}
		if (mode === 'difference' && result) {
			pen.globalCompositeOperation = 'difference';
			pen.drawImage(result.image, 0, 0);
		}
		if (mode.startsWith('cut') && other) {
			if (mode === 'cut frames') pen.globalAlpha = 0.5;
			else pen.globalCompositeOperation = 'difference';
			pen.drawImage(other.image, 0, 0);
		}
		shownId = (result ?? base).id;
	});

	const NOTES: Record<string, string> = {
		original: 'Original',
		split: 'Original left of the line',
		difference: 'Difference between original and result',
		'cut frames': 'Cut frames overlaid at 50 %',
		'cut difference': 'Difference of the cut frames: black where they agree'
	};

	function dragSplit(event: PointerEvent) {
		if (!(event.currentTarget as HTMLElement).hasPointerCapture(event.pointerId)) return;
		const box = canvas.getBoundingClientRect();
		bench.splitAt = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
	}
	function keySplit(event: KeyboardEvent) {
		const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
		if (!by) return;
		event.preventDefault();
		event.stopPropagation();
		bench.splitAt = Math.min(1, Math.max(0, bench.splitAt + by));
	}
	let splitLeft = $derived.by(() => {
		void bench.preview.frameTick;
		return canvas ? canvas.offsetLeft + bench.splitAt * canvas.clientWidth : 0;
	});
</script>

<div class="surround" class:two={bench.variants.beside}>
	<!-- svelte-ignore a11y_no_interactive_element_to_noninteractive_role -->
	<canvas
		bind:this={canvas}
		role="img"
		width="640"
		height="360"
		style:aspect-ratio="{shape.width} / {shape.height}"
		data-testid="picture"
		data-shown-id={shownId}
		data-asked-id={bench.preview.id}
		data-shown={bench.shown}
		aria-label="Frame {bench.shown} of the transition{bench.comparing === 'result'
			? ''
			: `, ${bench.comparing}`}"
	></canvas>
	{#if bench.variants.beside}
		{@const { variant, preview } = bench.variants.beside}
		{#key variant.id}<BesidePicture {bench} {preview} name={variant.name} />{/key}
	{/if}
	{#if canvas && !bench.playing && bench.comparing === 'result'}<PictureHandles
			{bench}
			{canvas}
		/>{/if}
	{#if waiting}
		<p class="note">
			{bench.preview.connected ? 'Loading frames…' : 'Connecting to the server…'}
		</p>
	{:else if NOTES[bench.comparing]}
		<p class="note">{NOTES[bench.comparing]}</p>
	{/if}
	{#if bench.comparing === 'split' && canvas}
		<button
			class="split"
			aria-label="Split line, {Math.round(bench.splitAt * 100)} %"
			style:left="{splitLeft}px"
			style:top="{canvas.offsetTop}px"
			style:height="{canvas.clientHeight}px"
			onpointerdown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
			onpointermove={dragSplit}
			onkeydown={keySplit}
		></button>
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
	.two {
		gap: 8px;
	}
	.two > canvas {
		width: calc(50% - 4px);
		height: auto;
	}
	.split {
		position: absolute;
		width: 12px;
		margin-left: -6px;
		border-left: 5px solid transparent;
		border-right: 5px solid transparent;
		background: var(--color-seam) content-box;
		background-clip: padding-box;
		cursor: ew-resize;
		touch-action: none;
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
