<script lang="ts">
	// The shown frame, and what lies over it: handles, the split line, a note on the view.
	import type { Bench } from '$lib/bench/bench.svelte';
	import Button from '$lib/ui/Button.svelte';
	import BesidePicture from './BesidePicture.svelte';
	import { drawPicture, needed } from './drawPicture';
	import PictureHandles from './PictureHandles.svelte';
	import SplitLine from './SplitLine.svelte';

	let { bench }: { bench: Bench } = $props();

	let canvas = $state<HTMLCanvasElement>() as HTMLCanvasElement;
	let shownId = $state(0);
	let waiting = $state(true);
	let { preview, view, transition } = $derived(bench);

	// Draws the newest pictures; an older one stays until a newer one arrives. Pictures of other frames
	// arrive all the time and change nothing here.
	let drawn: unknown[] = [];
	$effect(() => {
		void preview.frameTick;
		const mode = view.comparing;
		const { frame, source } = preview.pictures;
		const pictures = {
			result: frame.get(view.shown),
			one: source.get(mode.startsWith('cut') ? -1 : view.shown),
			other: source.get(0)
		};
		const all = needed(mode, pictures);
		waiting = all.some((each) => !each);
		if (waiting) return;
		const drawing = [canvas, mode, mode === 'split' && view.splitAt, ...all];
		if (drawing.length === drawn.length && drawing.every((each, n) => each === drawn[n])) return;
		drawn = drawing;
		drawPicture(canvas, mode, pictures, view.splitAt);
		shownId = (pictures.result ?? all[0])?.id ?? 0;
	});

	const NOTES: Record<string, string> = {
		original: 'Original',
		split: 'Original left of the line',
		difference: 'Difference between original and result',
		'cut frames': 'Cut frames overlaid at 50 %',
		'cut difference': 'Difference of the cut frames: black where they agree',
		'cut tints': 'Cut frames in the colours of their sides: plain where they agree'
	};
</script>

<div class="surround" class:two={bench.variants.beside}>
	<!-- svelte-ignore a11y_no_interactive_element_to_noninteractive_role -->
	<canvas
		bind:this={canvas}
		role="img"
		width="640"
		height="360"
		style:aspect-ratio="{transition.cut.width} / {transition.cut.height}"
		data-testid="picture"
		data-shown-id={shownId}
		data-asked-id={preview.id}
		data-shown={view.shown}
		aria-label="Frame {view.shown} of the transition{view.comparing === 'result'
			? ''
			: `, ${view.comparing}`}"
	></canvas>
	{#if bench.variants.beside}
		{@const { variant, preview: other } = bench.variants.beside}
		{#key variant.id}<BesidePicture {bench} preview={other} name={variant.name} />{/key}
	{/if}
	{#if canvas && !bench.player.playing && view.comparing === 'result'}<PictureHandles
			{bench}
			{canvas}
		/>{/if}
	{#if preview.gone}
		<div class="note gone" role="alert">
			This cut was deleted. <Button low href="/edits/{transition.cut.edit_id}">Open edit</Button>
		</div>
	{:else if waiting}
		<p class="note">{preview.connected ? 'Loading frames…' : 'Connecting to the server…'}</p>
	{:else if NOTES[view.comparing]}
		<p class="note">{NOTES[view.comparing]}</p>
	{/if}
	{#if view.comparing === 'split' && canvas}<SplitLine {view} {canvas} />{/if}
</div>

<style>
	.surround {
		position: relative;
		display: flex;
		align-items: center;
		justify-content: center;
		min-width: 0;
		min-height: 0;
		padding: 10px 0;
		overflow: hidden;
		background: var(--color-surround);
	}
	canvas {
		display: block;
		max-width: 100%;
		max-height: 100%;
		height: 100%;
		object-fit: contain;
	}
	.two {
		gap: 8px;
	}
	.two > canvas {
		width: calc(50% - 4px);
		height: auto;
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
		white-space: nowrap;
	}
	.gone {
		top: 40%;
		padding: 12px;
		font-size: 13px;
	}
	@container (max-width: 900px) {
		.surround {
			grid-row: 1;
			grid-column: 1 / 3;
			height: min(56cqw, 340px);
		}
	}
</style>
