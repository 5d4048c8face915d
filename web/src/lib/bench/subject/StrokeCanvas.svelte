<script lang="ts">
	// A picture that is drawn on: lines and a box, by pointer or by keys.
	import type { Strokes } from '$lib/api/client';
	import { clamped } from '$lib/ui/numbers';
	import type { Point, Tool } from './strokes';
	import { USUAL_SIZE } from './strokes';

	type Props = {
		address: string;
		tool: Tool;
		/** The thickness of the brush, of the picture's height. */
		size: number;
		/** What is drawn on the shown frame. */
		on: Strokes;
		shape: number;
		online: (line: Point[]) => void;
		onbox: (corners: [Point, Point]) => void;
	};
	let { address, tool, size, on, shape, online, onbox }: Props = $props();

	const STEP = 0.01;
	const FAR = 5;
	let width = $state(640);
	let height = $derived(width / shape);
	/** The line that is being drawn; of a box its two corners. */
	let line = $state.raw<Point[]>([]);
	/** The brush, where it is moved by keys. */
	let brush = $state.raw<Point>([0.5, 0.5]);
	let keyed = $state(false);

	/** A dialog that opens puts the focus on its first button: the picture has it after that. */
	function focusSoon(node: HTMLElement) {
		const waiting = requestAnimationFrame(() => node.focus());
		return () => cancelAnimationFrame(waiting);
	}

	function begin(at: Point) {
		line = [at];
	}

	function go(to: Point) {
		if (!line.length) return;
		const start = line[0] as Point;
		line = tool === 'box' ? [start, to] : [...line, to];
	}

	function end() {
		const [one, ...rest] = line;
		line = [];
		if (!one) return;
		if (tool !== 'box') online([one, ...rest]);
		else if (rest.length) onbox([one, rest.at(-1) as Point]);
	}

	function place(event: PointerEvent): Point {
		const box = (event.currentTarget as Element).getBoundingClientRect();
		const within = (at: number) => clamped(at, 0, 1);
		return [
			within((event.clientX - box.left) / box.width),
			within((event.clientY - box.top) / box.height)
		];
	}

	function onpointerdown(event: PointerEvent) {
		if (event.button) return;
		(event.currentTarget as Element).setPointerCapture(event.pointerId);
		keyed = false;
		brush = place(event);
		begin(brush);
	}

	function onkeydown(event: KeyboardEvent) {
		const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
			event.key
		];
		if (step) {
			const [right = 0, down = 0] = step;
			const far = STEP * (event.shiftKey ? FAR : 1);
			keyed = true;
			brush = [
				clamped(brush[0] + (right * far) / shape, 0, 1),
				clamped(brush[1] + down * far, 0, 1)
			];
			go(brush);
		} else if (event.key === ' ' || event.key === 'Enter') {
			keyed = true;
			if (line.length) end();
			else begin(brush);
		} else if (event.key === 'Escape' && line.length) line = [];
		else return;
		event.preventDefault();
		event.stopPropagation();
	}

	function path(points: readonly (readonly number[])[]): string {
		return points.map(([x = 0, y = 0]) => `${x * width},${y * height}`).join(' ');
	}

	type Drawn = { kind: 'keep' | 'remove'; points: readonly (readonly number[])[]; size: number };
	let drawn = $derived<Drawn[]>([
		...(['keep', 'remove'] as const).flatMap((kind) =>
			(on[kind] ?? []).map((points, n) => ({
				kind,
				points,
				size: on[`${kind}_sizes`]?.[n] ?? USUAL_SIZE
			}))
		),
		...(line.length && tool !== 'box' ? [{ kind: tool, points: line, size }] : [])
	]);
	let box = $derived.by(() => {
		const [one, other] = line;
		if (tool === 'box' && one && other)
			return {
				x: Math.min(one[0], other[0]),
				y: Math.min(one[1], other[1]),
				w: Math.abs(one[0] - other[0]),
				h: Math.abs(one[1] - other[1])
			};
		if (!on.box) return null;
		const [x, y, w, h] = on.box;
		return { x, y, w, h };
	});
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
	class="canvas"
	role="application"
	tabindex="0"
	aria-label="Picture to draw on: arrow keys move the brush, Space begins and ends a line"
	style:aspect-ratio={shape}
	bind:clientWidth={width}
	{@attach focusSoon}
	{onpointerdown}
	onpointermove={(event) => go(place(event))}
	onpointerup={end}
	onpointercancel={() => (line = [])}
	{onkeydown}
>
	{#if address}<img src={address} alt="" draggable="false" />{/if}
	<svg viewBox="0 0 {width} {height}" aria-hidden="true">
		{#each drawn as each, n (n)}
			{@const thick = Math.max(2, each.size * height)}
			{#if each.points.length > 1}
				<polyline
					class={each.kind}
					points={path(each.points)}
					stroke-width={thick}
					stroke-dasharray={each.kind === 'remove' ? `${thick} ${thick * 1.6}` : undefined}
				/>
			{:else}
				<circle
					class={each.kind}
					cx={(each.points[0]?.[0] ?? 0) * width}
					cy={(each.points[0]?.[1] ?? 0) * height}
					r={thick / 2}
				/>
			{/if}
		{/each}
		{#if box}
			<rect x={box.x * width} y={box.y * height} width={box.w * width} height={box.h * height} />
		{/if}
		{#if keyed || tool !== 'box'}
			<circle
				class="brush"
				class:keyed
				cx={brush[0] * width}
				cy={brush[1] * height}
				r={tool === 'box' ? 4 : Math.max(3, (size * height) / 2)}
			/>
		{/if}
	</svg>
</div>

<style>
	.canvas {
		position: relative;
		width: 100%;
		overflow: hidden;
		background: #000;
		cursor: crosshair;
		touch-action: none;
		user-select: none;
	}
	img,
	svg {
		position: absolute;
		inset: 0;
		width: 100%;
		height: 100%;
	}
	polyline {
		fill: none;
		stroke-linecap: round;
		stroke-linejoin: round;
		opacity: 0.72;
	}
	.keep {
		stroke: var(--color-seam);
	}
	.remove {
		stroke: var(--color-failed);
	}
	circle.keep {
		fill: var(--color-seam);
	}
	circle.remove {
		fill: var(--color-failed);
	}
	rect {
		fill: none;
		stroke: var(--color-seam);
		stroke-dasharray: 6 4;
		stroke-width: 1.5;
		filter: drop-shadow(0 0 1px #000);
	}
	.brush {
		display: none;
		fill: none;
		stroke: var(--color-seam);
		stroke-width: 1.5;
		filter: drop-shadow(0 0 1px #000);
	}
	.canvas:focus-visible .brush.keyed {
		display: block;
	}
</style>
