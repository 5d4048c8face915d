<script lang="ts">
	// One curve under the frames that it changes: a dot at every frame's value, handles when open.
	import { clamped } from '$lib/ui/numbers';
	import { tOf, uOf, type Axis } from './axis';
	import type { Curve } from './preview.svelte';
	import type { Envelope, Swell, Travel, Value } from './recipe';

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
		onchange
	}: Props = $props();

	const PAD_PX = 9;
	const NEAR_CUT_U = 0.02;
	const DOT_ROOM_PX = 7;

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

	/** The points of one half, the curve's times scaled should the window just have changed. */
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

	type Handle = {
		id: string;
		label: string;
		x: number;
		y: number;
		square?: boolean;
		value: number;
	};
	let handles = $derived.by<Handle[]>(() => {
		if (!open || !envelope || typeof envelope !== 'object' || Array.isArray(envelope)) return [];
		if (envelope.kind === 'swell') return swellHandles(envelope);
		if (envelope.kind === 'travel') return travelHandles(envelope);
		return [];
	});

	function single(value: Value): number {
		return Array.isArray(value) ? value[0] : value;
	}

	function swellHandles(swell: Swell): Handle[] {
		const middle = (swell.full_from + swell.full_to) / 2;
		const at = (u: number) => axis.x(tOf(axis, u));
		return [
			{
				id: 'start',
				label: `Start of ${name}`,
				x: at(swell.start),
				y: y(rest),
				square: true,
				value: swell.start
			},
			{
				id: 'peak',
				label: `Peak of ${name}`,
				x: at(middle),
				y: y(single(swell.peak)),
				value: single(swell.peak)
			},
			{
				id: 'end',
				label: `End of ${name}`,
				x: at(swell.end),
				y: y(rest),
				square: true,
				value: swell.end
			}
		];
	}

	function travelHandles(travel: Travel): Handle[] {
		const from = travel.from == null ? rest : single(travel.from);
		const end = from + single(travel.amount);
		return [
			{
				id: 'amount',
				label: `Amount of ${name}`,
				x: axis.x(tOf(axis, travel.end)),
				y: y(end),
				value: single(travel.amount)
			}
		];
	}

	let grabbed: { id: string; y: number; value: number } | null = null;

	function grab(event: PointerEvent, handle: Handle) {
		event.preventDefault();
		(event.currentTarget as Element).setPointerCapture(event.pointerId);
		frozen = { ...bounds };
		grabbed = { id: handle.id, y: event.clientY, value: handle.value };
	}

	function drag(event: PointerEvent) {
		if (!grabbed || !envelope || !frozen) return;
		const perPixel = (frozen.high - frozen.low) / (height - 2 * PAD_PX);
		const value = grabbed.value + (grabbed.y - event.clientY) * perPixel;
		const svg = (event.currentTarget as SVGElement).ownerSVGElement;
		const left = svg?.getBoundingClientRect().left ?? 0;
		moved(grabbed.id, value, axis.t(event.clientX - left), event.altKey);
	}

	function moved(id: string, value: number, t: number, free: boolean) {
		const held = clamped(whole && !free ? Math.round(value) : value, low, high);
		if (id === 'peak') onchange?.({ ...(envelope as Swell), peak: held });
		if (id === 'amount') onchange?.({ ...(envelope as Travel), amount: held });
		if (id === 'start' || id === 'end') onchange?.(edgeMoved(envelope as Swell, id, t));
	}

	/** A swell whose start or end was moved to a whole frame, held on its side of the plateau. */
	function edgeMoved(swell: Swell, id: 'start' | 'end', t: number): Swell {
		const u = uOf(axis, Math.round(t));
		if (id === 'start') return { ...swell, start: clamped(u, -1, swell.full_from - NEAR_CUT_U) };
		return { ...swell, end: clamped(u, swell.full_to + NEAR_CUT_U, 1) };
	}

	function release() {
		grabbed = null;
		frozen = null;
	}

	function onkeydown(event: KeyboardEvent, handle: Handle) {
		const up = { ArrowUp: 1, ArrowDown: -1 }[event.key];
		const right = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
		const size = (whole ? 1 : (bounds.high - bounds.low) / 50) * (event.shiftKey ? 10 : 1);
		if (handle.square && right) {
			moved(handle.id, 0, Math.round(tOf(axis, handle.value)) + right, false);
		} else if (!handle.square && up) moved(handle.id, handle.value + up * size, 0, false);
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
</script>

<svg class:dim width={axis.width} {height} aria-label="Curve of {name}">
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
	{#each handles as handle (handle.id)}
		<g
			class="handle"
			role="slider"
			tabindex="0"
			aria-label={handle.label}
			aria-valuenow={handle.value}
			data-handle={handle.id}
			transform="translate({handle.x} {clamped(handle.y, 4, height - 4)})"
			onpointerdown={(event) => grab(event, handle)}
			onpointermove={drag}
			onpointerup={release}
			onpointercancel={release}
			onkeydown={(event) => onkeydown(event, handle)}
		>
			<circle r="11" class="reach" />
			{#if handle.square}
				<rect
					x="-4.5"
					y="-4.5"
					width="9"
					height="9"
					rx="2"
					class={handle.id === 'start' ? 'out' : 'in'}
				/>
			{:else}
				<rect x="-5" y="-5" width="10" height="10" rx="1.5" transform="rotate(45)" class="seam" />
			{/if}
		</g>
	{/each}
	{#if open && caption && handles.length}
		{@const main = handles.find((handle) => !handle.square)}
		{#if main}
			{@const right = main.x < axis.width - 130}
			<text
				class="figures"
				x={main.x + (right ? 14 : -14)}
				y={clamped(main.y + (right ? 4 : 20), 14, height - 6)}
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
	text {
		fill: var(--color-ink);
		font-size: 11px;
		pointer-events: none;
		paint-order: stroke;
		stroke: #1c1c1c;
		stroke-width: 3px;
	}
</style>
