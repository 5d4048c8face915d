<script lang="ts">
	// Every frame of the window, with the cut in the middle; drag to scrub, drag the ends to resize.
	import { onDestroy, untrack } from 'svelte';
	import type { Bench } from '$lib/bench/bench.svelte';
	import { draggable } from '$lib/ui/drag';
	import { counted, fromCut } from '$lib/ui/numbers';
	import Tip from '$lib/ui/Tip.svelte';
	import { frameAt, labelEvery, type Axis } from './axis';

	let { bench, axis }: { bench: Bench; axis: Axis } = $props();

	const PICTURES_PX = 40;
	const NUMBERS_PX = 18;
	const LABEL_ROOM_PX = 26;
	const THUMB_ROOM_PX = 22;
	const DRAWN_EVERY_MS = 50;

	let canvas: HTMLCanvasElement;
	let offsets = $derived(
		Array.from({ length: axis.before + axis.after }, (_, n) => n - axis.before)
	);
	let every = $derived(labelEvery(axis, LABEL_ROOM_PX));
	// Narrow frames share one picture, so that it stays recognisable.
	let shared = $derived(Math.max(1, Math.ceil(THUMB_ROOM_PX / axis.cell)));

	// Drawn at intervals, however many pictures arrive: drawing takes time from rendering.
	let due: ReturnType<typeof setTimeout> | undefined;
	$effect(() => {
		void bench.preview.thumbTick;
		due ??= setTimeout(draw, DRAWN_EVERY_MS);
	});
	$effect(() => {
		void [axis, shared];
		untrack(draw);
	});
	onDestroy(() => clearTimeout(due));

	function draw() {
		clearTimeout(due);
		due = undefined;
		const density = devicePixelRatio;
		canvas.width = Math.round(axis.width * density);
		canvas.height = PICTURES_PX * density;
		const brush = canvas.getContext('2d', { alpha: false });
		if (!brush) return;
		brush.fillStyle = '#1c1c1c';
		brush.fillRect(0, 0, canvas.width, canvas.height);
		for (
			let first = -Math.ceil(axis.before / shared) * shared;
			first < axis.after;
			first += shared
		) {
			drawThumb(brush, first, density);
		}
	}

	function drawThumb(brush: CanvasRenderingContext2D, first: number, density: number) {
		const from = Math.max(first, -axis.before);
		const end = Math.min(first + shared, axis.after);
		const pictured = Math.min(Math.max(first < 0 ? end - 1 : from, -axis.before), axis.after - 1);
		const picture = bench.preview.pictures.thumb.get(pictured);
		const left = axis.x(from) * density;
		const width = (end - from) * axis.cell * density - 1;
		const height = PICTURES_PX * density;
		if (!picture) {
			brush.fillStyle = '#262626';
			brush.fillRect(left, 0, width, height);
			return;
		}
		// The middle of the picture, cropped to the cell's aspect.
		const { image } = picture;
		const wide = Math.min(image.width, (image.height * width) / height);
		const high = Math.min(image.height, (image.width * height) / width);
		brush.drawImage(
			image,
			(image.width - wide) / 2,
			(image.height - high) / 2,
			wide,
			high,
			left,
			0,
			width,
			height
		);
	}

	const scrub = draggable(() => ({
		start: (event) => scrubTo(event),
		move: (event) => scrubTo(event)
	}));
	function scrubTo(event: PointerEvent) {
		bench.view.show(frameAt(axis, event.clientX - canvas.getBoundingClientRect().left));
	}

	type End = 'before' | 'after';
	/** The ends of the window: what they were when the drag began decides, whatever happens meanwhile. */
	function resize(side: End) {
		return draggable(() => {
			const { cell } = axis;
			const frames = bench.transition[side];
			const sign = side === 'before' ? -1 : 1;
			return { move: (_, right) => setEnd(side, frames + Math.round((sign * right) / cell)) };
		});
	}
	const ENDS = [
		{ side: 'before', label: 'Start of the window', drag: resize('before') },
		{ side: 'after', label: 'End of the window', drag: resize('after') }
	] as const;

	function setEnd(side: End, frames: number) {
		const { before, after } = bench.transition;
		if (side === 'before') bench.transition.setWindow(frames, after);
		else bench.transition.setWindow(before, frames);
	}

	function onkeydown(event: KeyboardEvent, side: End) {
		const outwards = side === 'before' ? 'ArrowLeft' : 'ArrowRight';
		if (!['ArrowLeft', 'ArrowRight'].includes(event.key)) return;
		event.preventDefault();
		event.stopPropagation();
		setEnd(side, bench.transition[side] + (event.key === outwards ? 1 : -1));
	}
</script>

<div class="strip">
	<div
		class="frames"
		role="slider"
		tabindex="0"
		aria-label="Shown frame, counted from the cut"
		aria-valuemin={-axis.before}
		aria-valuemax={axis.after - 1}
		aria-valuenow={Math.min(Math.max(bench.view.shown, -axis.before), axis.after - 1)}
		aria-valuetext={fromCut(bench.view.shown)}
		{@attach scrub}
	>
		<canvas
			bind:this={canvas}
			style:height="{PICTURES_PX}px"
			data-testid="strip"
			data-thumbs={bench.preview.thumbTick}
		></canvas>
		<div class="numbers figures small" style:height="{NUMBERS_PX}px" aria-hidden="true">
			{#each offsets as offset (offset)}
				{#if offset % every === 0 || offset === -1 || offset === -axis.before}
					{#if every === 1 || offset === -1 || Math.abs(offset + 1) >= every || offset >= 0}
						<span
							class:out={offset < 0}
							class:now={offset === bench.view.shown}
							style:left="{axis.x(offset + 0.5)}px">{fromCut(offset)}</span
						>
					{/if}
				{/if}
			{/each}
		</div>
		{#if bench.view.shown >= -axis.before && bench.view.shown < axis.after}
			<div
				class="shown"
				style:left="{axis.x(bench.view.shown)}px"
				style:width="{Math.max(axis.cell, 4)}px"
				style:height="{PICTURES_PX + NUMBERS_PX}px"
			></div>
		{/if}
	</div>
	{#each ENDS as { side, label, drag } (side)}
		<div
			class="end {side}"
			role="slider"
			tabindex="0"
			aria-label={label}
			aria-valuenow={bench.transition[side]}
			aria-valuemin={1}
			aria-valuemax={side === 'before'
				? bench.transition.cut.most_before
				: bench.transition.cut.most_after}
			aria-valuetext={counted(bench.transition[side], 'frame')}
			style:left="{axis.x(side === 'before' ? -axis.before : axis.after)}px"
			style:height="{PICTURES_PX}px"
			{@attach drag}
			onkeydown={(event) => onkeydown(event, side)}
		></div>
		<Tip>Drag to change the window, or use the arrow keys</Tip>
	{/each}
</div>

<style>
	.strip {
		position: relative;
	}
	.frames {
		position: relative;
		cursor: pointer;
		touch-action: none;
	}
	canvas {
		display: block;
		width: 100%;
	}
	.numbers {
		position: relative;
	}
	.numbers span {
		position: absolute;
		top: 1px;
		transform: translateX(-50%);
		color: var(--color-incoming);
	}
	.numbers .out {
		color: var(--color-outgoing);
	}
	.numbers .now {
		color: var(--color-ink);
		font-weight: 600;
	}
	.shown {
		position: absolute;
		top: 0;
		border: 2px solid var(--color-ink);
		border-radius: 4px;
		pointer-events: none;
	}
	.end {
		position: absolute;
		top: 0;
		width: 24px;
		border-radius: 3px;
		cursor: ew-resize;
		touch-action: none;
	}
	.end.before {
		margin-left: -24px;
		border-right: 4px solid var(--color-outgoing);
	}
	.end.after {
		border-left: 4px solid var(--color-incoming);
	}
</style>
