<script lang="ts">
	// Every frame of the window, with the cut in the middle; drag to scrub, drag the ends to resize.
	// Below it, how much each frame differs from the one before.
	import { onDestroy, untrack } from 'svelte';
	import { fromCut } from '$lib/ui/numbers';
	import { frameAt, labelEvery, type Axis } from './axis';
	import type { Bench } from './bench.svelte';

	let { bench, axis }: { bench: Bench; axis: Axis } = $props();

	const PICTURES_PX = 40;
	const NUMBERS_PX = 18;
	const CHANGE_PX = 24;
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
	let tallest = $derived(Math.max(...bench.preview.changes, 0.02));

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

	let dragging: 'scrub' | 'before' | 'after' | null = null;

	function place(event: PointerEvent): number {
		return event.clientX - canvas.getBoundingClientRect().left;
	}

	function grab(event: PointerEvent, what: 'scrub' | 'before' | 'after') {
		event.preventDefault();
		(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
		event.stopPropagation();
		dragging = what;
		grabbed = {
			x: event.clientX,
			frames: what === 'before' ? bench.before : bench.after,
			cell: axis.cell
		};
		if (what === 'scrub') bench.show(frameAt(axis, place(event)));
	}
	let grabbed = { x: 0, frames: 0, cell: 1 };

	function move(event: PointerEvent) {
		if (dragging === 'scrub') bench.show(frameAt(axis, place(event)));
		else if (dragging) {
			const sign = dragging === 'before' ? -1 : 1;
			const frames =
				grabbed.frames + Math.round((sign * (event.clientX - grabbed.x)) / grabbed.cell);
			if (dragging === 'before') bench.setWindow(frames, bench.after);
			else bench.setWindow(bench.before, frames);
		}
	}

	function release() {
		dragging = null;
	}

	function onkeydown(event: KeyboardEvent, side: 'before' | 'after') {
		const step = { ArrowLeft: side === 'before' ? 1 : -1, ArrowRight: side === 'before' ? -1 : 1 }[
			event.key
		];
		if (!step) return;
		event.preventDefault();
		event.stopPropagation();
		if (side === 'before') bench.setWindow(bench.before + step, bench.after);
		else bench.setWindow(bench.before, bench.after + step);
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
		aria-valuenow={bench.shown}
		onpointerdown={(event) => grab(event, 'scrub')}
		onpointermove={move}
		onpointerup={release}
		onpointercancel={release}
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
							class:now={offset === bench.shown}
							style:left="{axis.x(offset + 0.5)}px">{fromCut(offset)}</span
						>
					{/if}
				{/if}
			{/each}
		</div>
		{#if bench.shown >= -axis.before && bench.shown < axis.after}
			<div
				class="shown"
				style:left="{axis.x(bench.shown)}px"
				style:width="{Math.max(axis.cell, 4)}px"
				style:height="{PICTURES_PX + NUMBERS_PX}px"
			></div>
		{/if}
	</div>
	{#each ['before', 'after'] as const as side (side)}
		<div
			class="end {side}"
			role="slider"
			tabindex="0"
			aria-label={side === 'before' ? 'Start of the window' : 'End of the window'}
			aria-valuenow={side === 'before' ? bench.before : bench.after}
			aria-valuemin={1}
			aria-valuemax={side === 'before' ? bench.cut.most_before : bench.cut.most_after}
			title="Drag to change the window"
			style:left="{axis.x(side === 'before' ? -axis.before : axis.after)}px"
			style:height="{PICTURES_PX}px"
			onpointerdown={(event) => grab(event, side)}
			onpointermove={move}
			onpointerup={release}
			onpointercancel={release}
			onkeydown={(event) => onkeydown(event, side)}
		></div>
	{/each}
	<svg class="change" height={CHANGE_PX} role="img" aria-label="Change per frame">
		{#each bench.preview.changes as change, n (n)}
			{@const offset = n - axis.before}
			{#if offset < axis.after}
				<rect
					x={axis.x(offset) + axis.cell * 0.22}
					width={Math.max(1, axis.cell * 0.56)}
					y={CHANGE_PX - 2 - (change / tallest) * (CHANGE_PX - 4)}
					height={Math.max(1, (change / tallest) * (CHANGE_PX - 4))}
					class={offset < 0 ? 'out' : 'in'}
				>
					<title>Frame {fromCut(offset)}: changes by {(change * 100).toFixed(1)} %</title>
				</rect>
			{/if}
		{/each}
	</svg>
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
		width: 10px;
		border-radius: 3px;
		cursor: ew-resize;
		touch-action: none;
	}
	.end.before {
		margin-left: -10px;
		border-left: 4px solid var(--color-outgoing);
	}
	.end.after {
		border-right: 4px solid var(--color-incoming);
	}
	.change {
		display: block;
		width: 100%;
	}
	.change .out {
		fill: var(--color-outgoing);
		opacity: 0.75;
	}
	.change .in {
		fill: var(--color-incoming);
		opacity: 0.85;
	}
</style>
