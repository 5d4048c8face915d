<script lang="ts">
	// The curve of a lane: a dot at the value of every frame, and handles when open.
	import { clamped, rounded } from '$lib/ui/numbers';
	import { tOf, uOf, type Axis } from './axis';
	import type { ClipSide } from './bench.svelte';
	import { speeds, withNewKeyframe } from './envelopes';
	import { handlesOf, type Handle } from './handles';
	import type { Curve } from './preview.svelte';
	import { movesOf, type Envelope, type Keyframes } from './recipe';

	type Props = {
		axis: Axis;
		curve: Curve | undefined;
		height: number;
		rest: number;
		name: string;
		envelope?: Envelope;
		open?: boolean;
		dim?: boolean;
		whole?: boolean;
		low?: number;
		high?: number;
		caption?: string;
		/** The side of the cut that the curve belongs to, where it is only one. */
		only?: ClipSide;
		/** The handle that was used last: the fields beside the curve belong to it. */
		chosen?: string;
		showSpeed?: boolean;
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
		whole = false,
		low = -Infinity,
		high = Infinity,
		caption = '',
		only,
		chosen = $bindable(''),
		showSpeed = false,
		onchange
	}: Props = $props();

	const PAD_PX = 9;
	const DOT_ROOM_PX = 7;
	/** A handle that another one would hide is drawn at this distance beside it. */
	const ASIDE_PX = 17;
	const TIME_DECIMALS = 4;
	/** Beside the peak and the handles of its plateau. */
	const CAPTION_PX = 30;

	type Bounds = { low: number; high: number };
	let frozen = $state<Bounds | null>(null);
	let bounds = $derived.by<Bounds>(() => {
		if (frozen) return frozen;
		const shown = curve ? [...curve.line, rest] : [0, 1];
		const [least, most] = [Math.min(...shown), Math.max(...shown)];
		return most - least > 1e-9 ? { low: least, high: most } : { low: least, high: least + 1 };
	});
	let fits = $derived(curve && curve.values.length === axis.before + axis.after);

	function y(value: number): number {
		const share = (value - bounds.low) / (bounds.high - bounds.low);
		return height - PAD_PX - share * (height - 2 * PAD_PX);
	}

	/** The points of one half, with the curve's times scaled to the window. */
	function half(outgoing: boolean): string {
		if (!curve) return '';
		const [first, last] = [curve.times[0] ?? -1, curve.times[curve.times.length - 1] ?? 1];
		const points: string[] = [];
		curve.times.forEach((t, n) => {
			if (outgoing ? t > 0 : t < 0) return;
			const time = outgoing ? (t / -first) * axis.before : (t / last) * axis.after;
			points.push(`${axis.x(time).toFixed(1)},${y(curve.line[n] ?? 0).toFixed(1)}`);
		});
		return points.join(' ');
	}

	function area(points: string, outgoing: boolean): string {
		const base = y(clamped(rest, bounds.low, bounds.high)).toFixed(1);
		const edge = axis.x(outgoing ? -axis.before : axis.after).toFixed(1);
		const seam = axis.x(0).toFixed(1);
		return outgoing
			? `${edge},${base} ${points} ${seam},${base}`
			: `${seam},${base} ${points} ${edge},${base}`;
	}

	let out = $derived(half(true));
	let incoming = $derived(half(false));

	let handles = $derived(
		open && envelope !== undefined
			? handlesOf(envelope, rest).filter(
					({ u }) => !only || (only === 'outgoing' ? u <= 0 : u >= 0)
				)
			: []
	);
	let speed = $derived(showSpeed && curve ? speedLine(curve) : '');

	/** The curve's speed on a scale of its own, from still (the middle) to its fastest. */
	function speedLine({ times, line }: Curve): string {
		const found = speeds(times, line);
		const most = Math.max(...found.map(Math.abs), 1e-9);
		const [first, last] = [times[0] ?? -1, times[times.length - 1] ?? 1];
		return found
			.map((each, n) => {
				const t = times[n] ?? 0;
				const time = t < 0 ? (t / -first) * axis.before : (t / last) * axis.after;
				const at = height / 2 - (each / most) * (height / 2 - PAD_PX);
				return `${axis.x(time).toFixed(1)},${at.toFixed(1)}`;
			})
			.join(' ');
	}

	function placeOf(handle: { u: number; value: number }): { x: number; y: number } {
		return {
			x: axis.x(tOf(axis, handle.u)),
			y: clamped(y(handle.value), 4, height - 4)
		};
	}

	/** Where a handle is drawn: beside its place when a more important one is there. */
	function drawn(handle: Handle): { x: number; y: number } {
		const place = placeOf(handle);
		if (handle.shape === 'diamond') return place;
		const hidden = handles.some((other) => {
			if (other === handle || rank(other) <= rank(handle)) return false;
			const there = placeOf(other);
			return Math.hypot(there.x - place.x, there.y - place.y) < ASIDE_PX - 4;
		});
		if (!hidden) return place;
		const direction = /full_from|bend-2|^end/.test(handle.id) ? -1 : 1;
		const level = handle.shape === 'square';
		const x = place.x + direction * ASIDE_PX * (level ? 1 : 0.7);
		const down = place.y > height / 2 ? -1 : 1;
		return { x, y: clamped(place.y + (level ? 0 : down * ASIDE_PX * 0.7), 4, height - 4) };
	}

	function rank({ shape }: Handle): number {
		return { dot: 0, square: 1, diamond: 2 }[shape];
	}

	let grabbed: { handle: Handle; x: number; y: number } | null = null;

	function grab(event: PointerEvent, handle: Handle) {
		event.preventDefault();
		event.stopPropagation();
		const element = event.currentTarget as SVGElement;
		element.setPointerCapture(event.pointerId);
		element.focus();
		frozen = { ...bounds };
		chosen = handle.id;
		grabbed = { handle, x: event.clientX, y: event.clientY };
	}

	function drag(event: PointerEvent) {
		if (!grabbed || !frozen) return;
		const { handle } = grabbed;
		const perPixel = (frozen.high - frozen.low) / (height - 2 * PAD_PX);
		const t = tOf(axis, handle.u) + (event.clientX - grabbed.x) / axis.cell;
		const value = handle.value + (grabbed.y - event.clientY) * perPixel;
		move(handle, t, value, event.altKey);
	}

	/** Times snap to whole frames and values to the parameter's steps, unless `free`. */
	function move(handle: Handle, t: number, value: number, free: boolean) {
		const isBend = handle.shape === 'dot';
		const time = isBend || free ? t : Math.round(t);
		const snapped = handle.moves === 'time' || isBend ? value : snappedValue(value, free);
		const u = Number(clamped(uOf(axis, time), -1, 1).toFixed(TIME_DECIMALS));
		onchange?.(handle.moved({ u: handle.moves === 'value' ? handle.u : u, value: snapped }));
	}

	function snappedValue(value: number, free: boolean): number {
		const fine = (bounds.high - bounds.low) / 1000;
		return clamped(whole && !free ? Math.round(value) : rounded(value, fine), low, high);
	}

	function release() {
		grabbed = null;
		frozen = null;
	}

	function onkeydown(event: KeyboardEvent, handle: Handle) {
		const up = { ArrowUp: 1, ArrowDown: -1 }[event.key] ?? 0;
		const right = { ArrowRight: 1, ArrowLeft: -1 }[event.key] ?? 0;
		if (['Delete', 'Backspace'].includes(event.key) && handle.removed) {
			onchange?.(handle.removed());
		} else if ((up && handle.moves !== 'time') || (right && handle.moves !== 'value')) {
			const dot = handle.shape === 'dot';
			const size = whole && !dot ? 1 : (bounds.high - bounds.low) / 50;
			const far = event.shiftKey ? 10 : 1;
			const t = tOf(axis, handle.u) + right * far * (dot ? axis.before / 25 : 1);
			move(handle, t, handle.value + up * far * size, event.altKey);
		} else return;
		event.preventDefault();
		event.stopPropagation();
	}

	/** A double click adds a keyframe. */
	function addKeyframe(event: MouseEvent) {
		if (envelope === undefined || movesOf(envelope) !== 'keyframes') return;
		const box = (event.currentTarget as SVGElement).getBoundingClientRect();
		const u = Number(
			clamped(uOf(axis, Math.round(axis.t(event.clientX - box.left))), -1, 1).toFixed(4)
		);
		const share = (height - PAD_PX - (event.clientY - box.top)) / (height - 2 * PAD_PX);
		const value = snappedValue(bounds.low + share * (bounds.high - bounds.low), event.altKey);
		onchange?.(withNewKeyframe(envelope as Keyframes, u, value));
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
	{#if axis.cell >= 5}
		{#each { length: axis.before + axis.after + 1 }, n (n)}
			{@const x = axis.x(n - axis.before)}
			<line class="grid" x1={x} x2={x} y1="0" y2={height} />
		{/each}
	{/if}
	<polygon class="out fill" points={area(out, true)} />
	<polygon class="in fill" points={area(incoming, false)} />
	<polyline class="out" points={out} />
	<polyline class="in" points={incoming} />
	{#if fits && curve && axis.cell >= DOT_ROOM_PX}
		{#each curve.values as value, n (n)}
			{@const t = n - axis.before + 0.5}
			<circle class={t < 0 ? 'out' : 'in'} cx={axis.x(t)} cy={y(value)} r={open ? 3 : 2.4} />
		{/each}
	{/if}
	{#if speed}<polyline class="speed" points={speed} />{/if}
	{#each handles as handle (handle.id)}
		{#if handle.anchor}
			{@const from = placeOf(handle.anchor)}
			{@const to = drawn(handle)}
			<line class="bend" x1={from.x} y1={from.y} x2={to.x} y2={to.y} />
		{/if}
	{/each}
	{#each handles as handle (handle.id)}
		{@const at = drawn(handle)}
		<g
			class="handle {handle.shape}"
			class:chosen={handle.id === chosen}
			role="slider"
			tabindex="0"
			aria-label="{handle.label} of {name}"
			aria-valuenow={handle.moves === 'time' ? handle.u : handle.value}
			data-handle={handle.id}
			transform="translate({at.x} {at.y})"
			onpointerdown={(event) => grab(event, handle)}
			onpointermove={drag}
			onpointerup={release}
			onpointercancel={release}
			onfocus={() => (chosen = handle.id)}
			onkeydown={(event) => onkeydown(event, handle)}
		>
			<circle r={handle.shape === 'diamond' ? 11 : 8} class="reach" />
			{#if handle.shape === 'square'}
				<rect
					x="-4.5"
					y="-4.5"
					width="9"
					height="9"
					rx="2"
					class={handle.u < 0 || handle.id === 'full_from' ? 'out' : 'in'}
				/>
			{:else if handle.shape === 'dot'}
				<circle r="3.5" class="knob" />
			{:else}
				<rect x="-5" y="-5" width="10" height="10" rx="1.5" transform="rotate(45)" class="seam" />
			{/if}
		</g>
	{/each}
	{#if open && caption && handles.length}
		{@const main = handles.findLast((handle) => handle.shape === 'diamond')}
		{#if main && movesOf(envelope ?? 0) !== 'keyframes'}
			{@const at = placeOf(main)}
			{@const right = at.x < axis.width - 130}
			{@const swells = movesOf(envelope ?? 0) === 'swell'}
			{@const aside = swells ? CAPTION_PX : 14}
			{@const under = swells ? 4 : at.y < height / 2 ? 22 : -14}
			<text
				class="figures"
				x={at.x + (right ? aside : -aside)}
				y={clamped(at.y + under, 14, height - 6)}
				text-anchor={right ? 'start' : 'end'}>{caption}</text
			>
		{/if}
	{/if}
</svg>

<style>
	svg {
		display: block;
		overflow: visible;
	}
	.dim {
		opacity: 0.35;
	}
	.grid {
		stroke: #2e2e2e;
	}
	polyline {
		fill: none;
		stroke-width: 1.6;
	}
	polyline.out {
		stroke: var(--color-outgoing);
	}
	polyline.in {
		stroke: var(--color-incoming);
	}
	.fill {
		opacity: 0.13;
	}
	.out {
		fill: var(--color-outgoing);
	}
	.in {
		fill: var(--color-incoming);
	}
	polyline.out,
	polyline.in {
		fill: none;
	}
	.seam {
		fill: var(--color-seam);
		stroke: #1c1c1c;
	}
	.handle {
		cursor: grab;
		touch-action: none;
	}
	.reach {
		fill: transparent;
	}
	.handle:focus-visible {
		outline: none;
	}
	.handle:focus-visible .reach {
		stroke: var(--color-seam);
		stroke-width: 2;
	}
	.speed {
		stroke: var(--color-ink);
		stroke-width: 1;
		stroke-dasharray: 3 3;
		opacity: 0.8;
	}
	.bend {
		stroke: var(--color-quiet);
		stroke-width: 1;
	}
	.knob {
		fill: var(--color-page);
		stroke: var(--color-ink);
		stroke-width: 1.4;
	}
	.chosen .seam,
	.chosen rect {
		stroke: var(--color-ink);
		stroke-width: 2;
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
