<script lang="ts">
	// The shown frame, and what lies over it: handles, the split line, a note on the view.
	import type { Bench } from '$lib/bench/bench.svelte';
	import Button from '$lib/ui/Button.svelte';
	import BesidePicture from './BesidePicture.svelte';
	import { drawPicture, needed, type Pictures } from './drawPicture';
	import PictureHandles from './PictureHandles.svelte';
	import SplitLine from './SplitLine.svelte';

	let { bench }: { bench: Bench } = $props();

	let canvas = $state<HTMLCanvasElement>() as HTMLCanvasElement;
	let shownId = $state(0);
	let drawnWidth = $state(0);
	let waiting = $state(true);
	let { preview, view, transition } = $derived(bench);

	// Draws the newest pictures; an older one stays until a newer one arrives. Pictures of other frames
	// arrive all the time and change nothing here.
	let drawn: unknown[] = [];
	$effect(() => {
		void preview.frameTick;
		const mode = view.comparing;
		const quick = picturesOf(mode, false);
		// While it plays, pictures of one size: two would flicker. Unless there is no room for more large ones.
		const isSharp = !bench.player.playing || (view.large && sharp.ready >= sharp.kept);
		const large = isSharp ? picturesOf(mode, true) : quick;
		const pictures = needed(mode, large).every(Boolean) ? large : quick;
		const all = needed(mode, pictures);
		waiting = all.some((each) => !each);
		if (waiting) return;
		const drawing = [canvas, mode, mode === 'split' && view.splitAt, ...all];
		if (drawing.length === drawn.length && drawing.every((each, n) => each === drawn[n])) return;
		drawn = drawing;
		drawPicture(canvas, mode, pictures, view.splitAt);
		drawnWidth = all[0]?.image.width ?? 0;
		shownId = (pictures.result ?? all[0])?.id ?? 0;
	});

	/** The pictures of a view, quick or as large as they are seen. */
	function picturesOf(mode: string, sharp: boolean): Pictures {
		const { frame, source, sharp_source } = preview.pictures;
		const sources = sharp ? sharp_source : source;
		return {
			result: sharp ? preview.sharp(view.shown) : frame.get(view.shown),
			one: sources.get(mode.startsWith('cut') ? -1 : view.shown),
			other: sources.get(0)
		};
	}

	// Pictures as large as they are seen are asked for where the quick ones would be enlarged.
	const MAX_QUICK = [640, 360] as const;
	const MAX_SHARP = [1280, 720] as const;
	/** So much memory holds the sharp pictures of a loop. */
	const SHARP_BYTES = 800_000_000;
	const BYTES_PER_PIXEL = 4;
	let quick = $derived.by(() => {
		const { width, height } = transition.cut;
		const scale = Math.min(1, MAX_QUICK[0] / width, MAX_QUICK[1] / height);
		return { width: Math.round(width * scale), height: Math.round(height * scale) };
	});
	$effect(() => {
		const { large } = view;
		const { height: enough } = quick;
		const measure = () => {
			const wide = Math.min(Math.round(canvas.clientWidth * devicePixelRatio), MAX_SHARP[0]);
			const high = Math.min(Math.round(canvas.clientHeight * devicePixelRatio), MAX_SHARP[1]);
			const area: [number, number] | null = wide && high > enough ? [wide, high] : null;
			const room = Math.floor(SHARP_BYTES / (wide * high * BYTES_PER_PIXEL || 1));
			preview.showIn({ area, sharp_frames: large && area ? room : 0 });
		};
		const observer = new ResizeObserver(measure);
		observer.observe(canvas);
		measure();
		return () => observer.disconnect();
	});
	let sharp = $derived(view.sharp);
	let playsSmall = $derived(view.large && bench.player.playing && sharp.ready < sharp.all);

	function onescape(event: KeyboardEvent) {
		if (event.key === 'Escape' && view.framing) view.frame(null);
	}

	const NOTES: Record<string, string> = {
		original: 'Original',
		split: 'Original left of the line',
		difference: 'Difference between original and result',
		'cut frames': 'Cut frames overlaid at 50 %',
		'cut difference': 'Difference of the cut frames: black where they agree',
		'cut tints': 'Cut frames in the colours of their sides: plain where they agree'
	};
</script>

<svelte:window onkeydown={onescape} />
<div class="surround" data-picture class:two={bench.variants.beside}>
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
		data-width={drawnWidth}
		aria-label="Frame {view.shown} of the transition{view.comparing === 'result'
			? ''
			: `, ${view.comparing}`}"
	></canvas>
	{#if bench.variants.beside}
		{@const { variant, preview: other } = bench.variants.beside}
		{#key variant.id}<BesidePicture {bench} preview={other} name={variant.name} />{/key}
	{/if}
	{#if canvas && !bench.player.playing && (view.framing || view.comparing === 'result')}<PictureHandles
			{bench}
			{canvas}
		/>{/if}
	{#if preview.gone}
		<div class="note gone" role="alert">
			This cut was deleted. <Button low href="/edits/{transition.cut.edit_id}">Open edit</Button>
		</div>
	{:else if waiting}
		<p class="note">{preview.connected ? 'Loading frames…' : 'Connecting to the server…'}</p>
	{:else if playsSmall}
		<p class="note">
			{#if sharp.ready < sharp.kept}
				Plays at {quick.width}×{quick.height} until every frame is ready
			{:else}
				Sharp in {sharp.kept} of {sharp.all} frames: there is no room for more
			{/if}
		</p>
	{:else if view.framing}
		<div class="note framing">
			Framing of {transition.cut[view.framing].name}: drag it, its corners or the tip above
			<Button low tip="End framing (Esc)" onclick={() => view.frame(null)}>Done</Button>
		</div>
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
	.framing {
		top: auto;
		bottom: 12px;
		display: flex;
		align-items: center;
		gap: 8px;
		padding-right: 4px;
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
