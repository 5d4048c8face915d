<script lang="ts">
	// The handles on the picture: centre, arrow, roll arrows, radius, the edge of a wipe.
	import type { Bench } from '$lib/bench/bench.svelte';
	import { draggable } from '$lib/ui/drag';
	import { movingPoint, pointAt } from '$lib/bench/points';
	import { filterHandles } from './handles/filterHandles';
	import { regionHandles } from './handles/region';
	import { wipeHandle } from './handles/wipe';
	import { boxHandles } from './handles/box';
	import { framed, framingHandles } from './handles/framingBox';
	import {
		withinRanges,
		type Changes,
		type MovingPoint,
		type PictureHandle
	} from './handles/handle';
	import { atShownFrame, placementNow, setOnFrame } from './shownFilter';
	import { kindOf } from '$lib/recipe/recipe';

	let { bench, canvas }: { bench: Bench; canvas: HTMLCanvasElement } = $props();

	let width = $state(0);
	let height = $state(0);
	let left = $state(0);
	let top = $state(0);

	// The picture keeps its aspect inside its box: the handles lie over the shown part.
	$effect(() => {
		const place = () => {
			const shape = bench.transition.cut.width / bench.transition.cut.height;
			width = Math.min(canvas.clientWidth, canvas.clientHeight * shape);
			height = width / shape;
			left = canvas.offsetLeft + (canvas.clientWidth - width) / 2;
			top = canvas.offsetTop + (canvas.clientHeight - height) / 2;
		};
		const watcher = new ResizeObserver(place);
		watcher.observe(canvas);
		place();
		return () => watcher.disconnect();
	});

	let filter = $derived(
		bench.transition.recipe.filters.find((each) => each.id === bench.view.selected)
	);
	let kind = $derived(filter && kindOf(bench.catalogue, filter));
	let progress = $derived(
		bench.preview.curves.find((each) => each.filter_id === 'mix')?.values[
			bench.view.shown + bench.transition.before
		] ?? 0
	);
	let moving = $derived.by<MovingPoint | undefined>(() => {
		const name = kind?.parameters.find((each) => each.control === 'point')?.name;
		if (!filter || !name) return undefined;
		return movingPoint(bench, filter, name);
	});
	/** The box of a placed picture, inside the ranges of its parameters. */
	let box = $derived.by<PictureHandle[]>(() => {
		if (!filter || !kind || !width) return [];
		const { title, parameters } = kind;
		const point = parameters.find((each) => each.control === 'point')?.name;
		const centre = point ? pointAt(bench, filter, point) : ([0.5, 0.5] as const);
		const placed = placementNow(bench, filter, kind, centre, { width, height });
		if (!placed) return [];
		const made = boxHandles(placed.at, title, { width, height }, placed.path);
		const rangeOf = (name: string) => parameters.find((each) => each.name === name);
		return made.map((handle) => withinRanges(handle, rangeOf));
	});
	let framing = $derived.by(() => {
		const side = bench.view.framing;
		if (!side) return null;
		const { cut, framing } = bench.transition;
		return { side, name: cut[side].name, now: framing.now[side] };
	});
	/** The filter with the values of the shown frame where it has keyframes: handles set those. */
	let now = $derived(filter && kind && atShownFrame(bench, filter, kind));
	let handles = $derived.by<PictureHandle[]>(() => {
		if (!width) return [];
		if (framing) return framingHandles(framing.now, framing.name, { width, height });
		if (now && kind)
			return now.enabled
				? [
						...box,
						...filterHandles(now, kind, { width, height }, moving),
						...regionHandles(
							now,
							kind.title,
							{ width, height },
							{
								centre: movingPoint(bench, now, 'region.centre'),
								size: movingPoint(bench, now, 'region.size')
							}
						)
					]
				: [];
		const wipe =
			bench.view.selected === 'mix' &&
			wipeHandle(bench.transition.recipe.mix, progress, { width, height }, bench.transition);
		return wipe ? [wipe] : [];
	});

	function apply(handle: PictureHandle, changes: Changes) {
		if (framing) {
			bench.transition.framing.set(framing.side, framed(framing.now, changes));
			return;
		}
		const label = `Move ${handle.id.replace('-', ' ')} handle of`;
		if (filter && kind) {
			const others = setOnFrame(bench, filter, kind, changes, handle.onFrame);
			if (!Object.keys(others).length) return;
			bench.transition.changeFilter(filter.id, `${label} ${kind.title.toLowerCase()}`, (old) => ({
				...old,
				...others
			}));
		} else {
			bench.transition.change(`${label} the mix`, (recipe) => ({
				...recipe,
				mix: { ...recipe.mix, ...changes }
			}));
		}
	}

	/** A handle stays where the pointer is, also when it is drawn anew while it is dragged. */
	function dragOf(id: string) {
		return draggable(() => {
			const begun = handles.find((each) => each.id === id && each.relative);
			return {
				// A shape is no place for the focus; what is dragged by its inside stays as it is.
				start: (event) => {
					if (event.currentTarget instanceof HTMLElement) event.currentTarget.focus();
				},
				move: (event, right, down) => {
					if (begun) {
						apply(begun, begun.moved({ x: begun.x + right, y: begun.y + down }, event.shiftKey));
						return;
					}
					const handle = handles.find((each) => each.id === id);
					const area = canvas.getBoundingClientRect();
					const x = event.clientX - area.left - (area.width - width) / 2;
					const y = event.clientY - area.top - (area.height - height) / 2;
					if (handle) apply(handle, handle.moved({ x, y }, event.shiftKey));
				},
				// Once it is let go, arrow keys step frames again.
				end: (_, moved) => {
					const focused = document.activeElement;
					if (moved && focused instanceof HTMLElement) focused.blur();
				}
			};
		});
	}
	const drags: Record<string, ReturnType<typeof dragOf>> = {};
	const dragFor = (id: string) => (drags[id] ??= dragOf(id));

	function onkeydown(event: KeyboardEvent, handle: PictureHandle) {
		const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
			event.key
		];
		if (!step) return;
		event.preventDefault();
		event.stopPropagation();
		const far = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
		const [right = 0, down = 0] = step;
		apply(handle, handle.keyed(right * far, down * far));
	}
</script>

{#if handles.length}
	<div
		class="over"
		style:left="{left}px"
		style:top="{top}px"
		style:width="{width}px"
		style:height="{height}px"
	>
		<svg aria-hidden="true" viewBox="0 0 {width} {height}">
			{#each handles as handle (handle.id)}
				{#if handle.ring}
					{@const { x, y, rx, ry } = handle.ring}
					<ellipse cx={x} cy={y} {rx} {ry} />
				{/if}
				{#if handle.outline}
					<polygon
						data-drag={handle.id}
						points={handle.outline.map(({ x, y }) => `${x},${y}`).join(' ')}
						{@attach dragFor(handle.id)}
					/>
				{/if}
				{#if handle.frame}
					{@const { x, y, w, h } = handle.frame}
					<rect {x} {y} width={w} height={h} />
				{/if}
				{#if handle.from}
					{@const { x, y } = handle.from}
					<line
						x1={x}
						y1={y}
						x2={handle.shape === 'bar' ? 2 * handle.x - x : handle.x}
						y2={handle.shape === 'bar' ? 2 * handle.y - y : handle.y}
					/>
				{/if}
				{#if handle.path}
					<polyline points={handle.path.map(({ x, y }) => `${x},${y}`).join(' ')} />
					{#each handle.path as spot, n (n)}
						<circle cx={spot.x} cy={spot.y} r="2" />
					{/each}
				{/if}
				{#each handle.notches ?? [] as notch, n (n)}
					<circle cx={notch.x} cy={notch.y} r="3" />
				{/each}
			{/each}
		</svg>
		{#each handles as handle (handle.id)}
			<button
				class="handle {handle.shape}"
				data-handle={handle.id}
				aria-label={handle.label}
				style:left="{Math.min(Math.max(handle.x, 0), width)}px"
				style:top="{Math.min(Math.max(handle.y, 0), height)}px"
				{@attach dragFor(handle.id)}
				onkeydown={(event) => onkeydown(event, handle)}
			></button>
		{/each}
	</div>
{/if}

<style>
	.over {
		position: absolute;
		pointer-events: none;
	}
	svg {
		position: absolute;
		inset: 0;
		width: 100%;
		height: 100%;
		overflow: hidden;
		filter: drop-shadow(0 0 1px #000);
	}
	line,
	polyline,
	rect,
	polygon,
	ellipse {
		fill: none;
		stroke: var(--color-seam);
		stroke-width: 1.5;
	}
	rect,
	ellipse {
		stroke-dasharray: 5 4;
	}
	polygon {
		fill: transparent;
		cursor: move;
		pointer-events: auto;
	}
	circle {
		fill: var(--color-seam);
	}
	.handle {
		position: absolute;
		width: 24px;
		height: 24px;
		margin: -12px 0 0 -12px;
		border-radius: 50%;
		cursor: grab;
		pointer-events: auto;
	}
	/* What is seen is smaller than the target. */
	.handle::before {
		position: absolute;
		inset: 4px;
		border: 2px solid var(--color-seam);
		border-radius: 50%;
		box-shadow:
			0 0 0 1px #000a,
			inset 0 0 0 1px #000a;
		content: '';
	}
	.point::after {
		position: absolute;
		inset: 9px;
		border-radius: 50%;
		background: var(--color-seam);
		content: '';
	}
	.tip::before {
		inset: 6px;
		background: var(--color-seam);
	}
	.edge::before {
		inset: 7px;
		border-radius: 2px;
		background: var(--color-seam);
	}
	/* The picture is moved by all of its inside: this is for keys. */
	.middle {
		pointer-events: none;
	}
	.middle:not(:focus-visible)::before {
		display: none;
	}
	.bar::before {
		border-radius: 4px;
		background: var(--color-seam);
	}
</style>
