<script lang="ts">
	// The curve of a lane: a dot at the value of every frame, and handles when open. The half on which
	// it does nothing is dim.
	import type { Curve } from '$lib/bench/preview/messages';
	import { tOf, uOf, type Axis } from '$lib/bench/strip/axis';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import { withNewKeyframe } from '$lib/recipe/envelopes';
	import { movesOf, type Envelope, type Keyframes } from '$lib/recipe/recipe';
	import { clamped, rounded } from '$lib/ui/numbers';
	import { handlesOf } from './envelopeHandles';
	import CurveHandles from './CurveHandles.svelte';
	import { draggable } from '$lib/ui/drag';
	import type { PickedKeyframes } from './pickedKeyframes.svelte';
	import { boundsOf, halfPaths, heightScale, speedPath, type Bounds } from './curvePaths';

	type Props = {
		axis: Axis;
		curve: Curve | undefined;
		height: number;
		rest: number;
		name: string;
		envelope?: Envelope;
		open?: boolean;
		dim?: boolean;
		/** The only frames in which it acts, from the cut: one clip is seen there. */
		acts?: { from: number; to: number };
		whole?: boolean;
		low?: number;
		high?: number;
		caption?: string;
		/** Value and speed at the shown frame, in words. */
		readout?: string;
		/** The side of the cut that the curve belongs to, where it is only one. */
		only?: ClipSide;
		/** The handle that was used last: the fields beside the curve belong to it. */
		chosen?: string;
		showSpeed?: boolean;
		/** Which keyframes are picked, and the shown frame, at which they are pasted. */
		picked?: PickedKeyframes;
		shown?: number;
		onchange?: (envelope: Envelope) => void;
	};
	let {
		axis,
		curve,
		height,
		rest,
		name,
		envelope,
		open = false,
		dim = false,
		acts,
		whole = false,
		low = -Infinity,
		high = Infinity,
		caption = '',
		readout = '',
		only,
		chosen = $bindable(''),
		showSpeed = false,
		picked,
		shown = 0,
		onchange
	}: Props = $props();

	const acting = $props.id();
	const DOT_ROOM_PX = 7;
	const GRID_ROOM_PX = 5;
	/** Beside the peak and the handles of its plateau. */
	const CAPTION_PX = 30;
	const HALVES = [
		{ side: 'outgoing', look: 'out' },
		{ side: 'incoming', look: 'in' }
	] as const;

	let frozen = $state<Bounds | null>(null);
	let bounds = $derived(frozen ?? boundsOf(curve, rest));
	let y = $derived(heightScale(bounds, height));
	let fits = $derived(curve?.values.length === axis.before + axis.after);
	let moves = $derived(movesOf(envelope ?? 0));
	/** Whether the curve runs where the readout would otherwise be. */
	let beginsHigh = $derived(y(curve?.values[0] ?? rest) < height / 2);
	let handles = $derived(
		open && envelope !== undefined
			? handlesOf(envelope, rest).filter(
					({ u }) => !only || (only === 'outgoing' ? u <= 0 : u >= 0)
				)
			: []
	);
	let main = $derived(
		caption && moves !== 'keyframes'
			? handles.findLast((handle) => handle.shape === 'diamond')
			: undefined
	);

	/** A frame that is dragged around keyframes picks them. */
	let frame = $state<{ x: number; y: number; width: number; height: number } | null>(null);
	const picking = draggable(() => {
		let began = { x: 0, y: 0 };
		return {
			start: (event) => {
				if (!picked || moves !== 'keyframes') return false;
				const box = (event.currentTarget as SVGElement).getBoundingClientRect();
				began = { x: event.clientX - box.left, y: event.clientY - box.top };
			},
			move: (_, right, down) => {
				frame = {
					x: Math.min(began.x, began.x + right),
					y: Math.min(began.y, began.y + down),
					width: Math.abs(right),
					height: Math.abs(down)
				};
				picked?.pick(placesIn(frame));
			},
			end: () => (frame = null)
		};
	});

	function placesIn(area: { x: number; y: number; width: number; height: number }): number[] {
		return (envelope as Keyframes).keyframes.flatMap(({ at, value }, n) => {
			const x = axis.x(tOf(axis, at)) - area.x;
			const down = y(Array.isArray(value) ? value[0] : value) - area.y;
			return x >= 0 && x <= area.width && down >= 0 && down <= area.height ? [n] : [];
		});
	}

	/** A double click adds a keyframe on the frame that is pointed at; with Alt, exactly there. */
	function addKeyframe(event: MouseEvent) {
		if (envelope === undefined || moves !== 'keyframes') return;
		const box = (event.currentTarget as SVGElement).getBoundingClientRect();
		const t = axis.t(event.clientX - box.left);
		const u = clamped(uOf(axis, event.altKey ? t : Math.floor(t) + 0.5), -1, 1);
		const fine = (bounds.high - bounds.low) / 1000;
		const pointed = y.invert(event.clientY - box.top);
		const value = whole && !event.altKey ? Math.round(pointed) : rounded(pointed, fine);
		onchange?.(withNewKeyframe(envelope as Keyframes, u, clamped(value, low, high)));
	}
</script>

<svg
	class:dim
	width={axis.width}
	{height}
	role="group"
	aria-label="Curve of {name}"
	ondblclick={open ? addKeyframe : undefined}
>
	{#if open && picked && moves === 'keyframes'}
		<rect class="ground" width={axis.width} {height} {@attach picking} />
	{/if}
	{#if axis.cell >= GRID_ROOM_PX}
		{#each { length: axis.before + axis.after + 1 }, n (n)}
			{@const x = axis.x(n - axis.before)}
			<line class="grid" x1={x} x2={x} y1="0" y2={height} />
		{/each}
	{/if}
	{#if acts}
		<clipPath id={acting}>
			<rect x={axis.x(acts.from)} width={axis.x(acts.to) - axis.x(acts.from)} {height} />
		</clipPath>
	{/if}
	{#if curve}
		{#each HALVES as { side, look } (side)}
			{@const paths = halfPaths(curve, axis, bounds, height, rest, side === 'outgoing')}
			<g class={look} class:idle={acts}>
				<path class="fill" d={paths.area} />
				<path class="line" d={paths.line} />
			</g>
			{#if acts}
				<g class={look} clip-path="url(#{acting})">
					<path class="fill" d={paths.area} />
					<path class="line" d={paths.line} />
				</g>
			{/if}
		{/each}
		{#if fits && axis.cell >= DOT_ROOM_PX}
			{#each curve.values as value, n (n)}
				{@const t = n - axis.before + 0.5}
				<circle
					class={t < 0 ? 'out' : 'in'}
					class:idle={acts && (t < acts.from || t > acts.to)}
					cx={axis.x(t)}
					cy={y(value)}
					r={open ? 3 : 2.4}
				/>
			{/each}
		{/if}
		{#if showSpeed}<path class="speed" d={speedPath(curve, axis, height)} />{/if}
	{/if}
	{#if handles.length && onchange}
		<CurveHandles
			{axis}
			{handles}
			{bounds}
			{height}
			{name}
			{whole}
			{low}
			{high}
			bind:chosen
			keyframes={moves === 'keyframes' ? (envelope as Keyframes) : undefined}
			{picked}
			{shown}
			onhold={(held) => (frozen = held ? { ...bounds } : null)}
			{onchange}
		/>
	{/if}
	{#if frame}<rect class="frame" {...frame} />{/if}
	{#if open && readout}
		<text class="figures readout" x="8" y={beginsHigh ? height - 20 : 28}>{readout}</text>
	{/if}
	{#if main}
		{@const x = axis.x(main.u * (main.u < 0 ? axis.before : axis.after))}
		{@const top = clamped(y(main.value), 4, height - 4)}
		{@const right = x < axis.width - 130}
		{@const aside = moves === 'swell' ? CAPTION_PX : 14}
		{@const under = moves === 'swell' ? 4 : top < height / 2 ? 22 : -14}
		<text
			class="figures"
			x={x + (right ? aside : -aside)}
			y={clamped(top + under, 14, height - 6)}
			text-anchor={right ? 'start' : 'end'}>{caption}</text
		>
	{/if}
</svg>

<style>
	svg {
		display: block;
		overflow: visible;
	}
	.ground {
		fill: transparent;
	}
	.frame {
		fill: #fff1;
		stroke: var(--color-seam);
		stroke-dasharray: 3 3;
		pointer-events: none;
	}
	.readout {
		fill: var(--color-quiet);
		pointer-events: none;
	}
	.dim {
		opacity: 0.35;
	}
	.idle {
		opacity: 0.25;
	}
	.grid {
		stroke: #2e2e2e;
	}
	.line {
		fill: none;
		stroke-width: 1.6;
	}
	.fill {
		opacity: 0.13;
	}
	.out {
		fill: var(--color-outgoing);
		stroke: none;
	}
	.in {
		fill: var(--color-incoming);
		stroke: none;
	}
	.out .line {
		stroke: var(--color-outgoing);
	}
	.in .line {
		stroke: var(--color-incoming);
	}
	.speed {
		fill: none;
		stroke: var(--color-ink);
		stroke-width: 1;
		stroke-dasharray: 3 3;
		opacity: 0.8;
	}
	text {
		fill: var(--color-ink);
		font-size: 11px;
		pointer-events: none;
		paint-order: stroke;
		stroke: #1c1c1c;
		stroke-width: 3px;
	}
</style>
