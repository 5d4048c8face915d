<script lang="ts">
	// The handles on an open curve: dragged, or moved with the arrow keys.
	import { tOf, uOf, type Axis } from '$lib/bench/strip/axis';
	import type { Envelope, Keyframes } from '$lib/recipe/recipe';
	import { draggable } from '$lib/ui/drag';
	import { clamped, rounded } from '$lib/ui/numbers';
	import type { Handle } from './envelopeHandles';
	import { placeOf, type PickedKeyframes } from './pickedKeyframes.svelte';
	import { heightScale, type Bounds } from './curvePaths';

	type Props = {
		axis: Axis;
		handles: Handle[];
		bounds: Bounds;
		height: number;
		name: string;
		whole: boolean;
		low: number;
		high: number;
		/** The handle that was used last: the fields beside the curve belong to it. */
		chosen: string;
		/** Where the handles are those of keyframes: these, and which of them are picked. */
		keyframes?: Keyframes;
		picked?: PickedKeyframes;
		/** The shown frame, at which keyframes are pasted. */
		shown?: number;
		/** While a handle is dragged the scale stays as it was. */
		onhold: (held: boolean) => void;
		onchange: (envelope: Envelope) => void;
	};
	let {
		axis,
		handles,
		bounds,
		height,
		name,
		whole,
		low,
		high,
		chosen = $bindable(),
		keyframes,
		picked,
		shown = 0,
		onhold,
		onchange
	}: Props = $props();

	/** A handle that another one would hide is drawn at this distance beside it. */
	const ASIDE_PX = 17;
	const RANK = { dot: 0, square: 1, diamond: 2 };
	let y = $derived(heightScale(bounds, height));

	function spotOf(handle: { u: number; value: number }): { x: number; y: number } {
		return { x: axis.x(tOf(axis, handle.u)), y: clamped(y(handle.value), 4, height - 4) };
	}

	/** Where a handle is drawn: beside its place when a more important one is there. */
	function drawn(handle: Handle): { x: number; y: number } {
		const place = spotOf(handle);
		if (handle.shape === 'diamond') return place;
		const hidden = handles.some((other) => {
			if (other === handle || RANK[other.shape] <= RANK[handle.shape]) return false;
			const there = spotOf(other);
			return Math.hypot(there.x - place.x, there.y - place.y) < ASIDE_PX - 4;
		});
		if (!hidden) return place;
		const direction = /full_from|bend-2|^end/.test(handle.id) ? -1 : 1;
		const level = handle.shape === 'square';
		const x = place.x + direction * ASIDE_PX * (level ? 1 : 0.7);
		const down = place.y > height / 2 ? -1 : 1;
		return { x, y: clamped(place.y + (level ? 0 : down * ASIDE_PX * 0.7), 4, height - 4) };
	}

	/** A handle is moved from where it was when the drag began, in the scale of that moment. */
	function dragOf(id: string) {
		return draggable(() => {
			const handle = handles.find((each) => each.id === id);
			const [scale, { cell }] = [y, axis];
			const begun = keyframes;
			return {
				start: (event) => {
					if (!handle) return false;
					(event.currentTarget as SVGElement).focus();
					chosen = id;
					pickWith(handle, event.shiftKey);
					onhold(true);
				},
				move: (event, right, down) => {
					if (!handle) return;
					if (begun && several(handle)) {
						const frames = event.altKey ? right / cell : Math.round(right / cell);
						const value = snappedValue(scale.invert(scale(handle.value) + down), event.altKey);
						moveTogether(begun, { frames, value: value - handle.value });
						return;
					}
					const t = tOf(axis, handle.u) + right / cell;
					const value = scale.invert(scale(handle.value) + down);
					move(handle, t, value, event.altKey);
				},
				end: () => onhold(false)
			};
		});
	}
	/** A press picks a keyframe alone, unless it is one of several; Shift adds it or takes it out. */
	function pickWith(handle: Handle, isAdding: boolean) {
		const place = placeOf(handle.id);
		if (!picked || place === undefined || handle.shape !== 'diamond') return;
		if (isAdding) picked.toggle(place);
		else picked.pick(picked.with(place));
	}

	function several(handle: Handle): boolean {
		return handle.shape === 'diamond' && !!picked?.has(handle.id) && count() > 1;
	}

	function count(): number {
		return picked?.of(keyframes?.keyframes.length ?? 0).length ?? 0;
	}

	function moveTogether(from: Keyframes, by: { frames: number; value: number }) {
		if (picked) onchange(picked.moved(from, by, axis, { low, high }));
	}

	const drags: Record<string, ReturnType<typeof dragOf>> = {};
	const dragFor = (id: string) => (drags[id] ??= dragOf(id));

	/** The border between two frames nearest to a time; or the middle of a frame, or the cut. */
	function kept(handle: Handle, t: number): number {
		if (handle.keeps === 'borders') return Math.round(t);
		return Math.abs(t) < 0.25 ? 0 : Math.floor(t) + 0.5;
	}

	/** Times snap to frames and values to the parameter's steps, unless `free`. */
	function move(handle: Handle, t: number, value: number, free: boolean) {
		const isBend = handle.shape === 'dot';
		const time = isBend || free ? t : kept(handle, t);
		const snapped = handle.moves === 'time' || isBend ? value : snappedValue(value, free);
		const u = clamped(uOf(axis, time), -1, 1);
		onchange(handle.moved({ u: handle.moves === 'value' ? handle.u : u, value: snapped }));
	}

	function snappedValue(value: number, free: boolean): number {
		const fine = (bounds.high - bounds.low) / 1000;
		return clamped(whole && !free ? Math.round(value) : rounded(value, fine), low, high);
	}

	function onkeydown(event: KeyboardEvent, handle: Handle) {
		if (event.ctrlKey || event.metaKey) {
			if (!onpicked(event)) return;
			event.preventDefault();
			event.stopPropagation();
			return;
		}
		const up = { ArrowUp: 1, ArrowDown: -1 }[event.key] ?? 0;
		const right = { ArrowRight: 1, ArrowLeft: -1 }[event.key] ?? 0;
		if (['Delete', 'Backspace'].includes(event.key) && handle.removed) {
			onchange(
				keyframes && picked && several(handle) ? picked.deleted(keyframes) : handle.removed()
			);
		} else if ((up && handle.moves !== 'time') || (right && handle.moves !== 'value')) {
			const dot = handle.shape === 'dot';
			const size = whole && !dot ? 1 : (bounds.high - bounds.low) / 50;
			const far = event.shiftKey ? 10 : 1;
			if (keyframes && several(handle)) {
				moveTogether(keyframes, { frames: right * far, value: up * far * size });
				event.preventDefault();
				event.stopPropagation();
				return;
			}
			const from = tOf(axis, handle.u);
			// From the cut the next frame is half a frame away.
			const one = dot ? axis.before / 25 : from === 0 && handle.keeps === 'frames' ? 0.5 : 1;
			const t = from + right * far * one;
			move(handle, t, handle.value + up * far * size, event.altKey);
		} else return;
		event.preventDefault();
		event.stopPropagation();
	}

	/** Keys with Ctrl: pick all, copy, paste at the shown frame (with Shift mirrored). Whether one was meant. */
	function onpicked(event: KeyboardEvent): boolean {
		if (!keyframes || !picked) return false;
		switch (event.key.toLowerCase()) {
			case 'a':
				picked.pick(keyframes.keyframes.map((_, n) => n));
				return true;
			case 'c':
				picked.copy(keyframes, name, axis);
				return count() > 0;
			case 'v': {
				const made = picked.pasted(keyframes, shown, event.shiftKey, axis, { low, high });
				if (made) onchange(made);
				return made !== null;
			}
			default:
				return false;
		}
	}

	function valueText(handle: Handle): string {
		const frame = Number(tOf(axis, handle.u).toFixed(1));
		const value = Number(handle.value.toFixed(3));
		if (handle.moves === 'value') return `value ${value}`;
		return handle.moves === 'time' ? `frame ${frame}` : `frame ${frame}, value ${value}`;
	}
</script>

{#each handles as handle (handle.id)}
	{#if handle.anchor}
		{@const from = spotOf(handle.anchor)}
		{@const to = drawn(handle)}
		<line class="bend" x1={from.x} y1={from.y} x2={to.x} y2={to.y} />
	{/if}
{/each}
{#each handles as handle (handle.id)}
	{@const at = drawn(handle)}
	<g
		class="handle {handle.shape}"
		class:chosen={handle.id === chosen}
		class:picked={handle.shape === 'diamond' && picked?.has(handle.id) && count() > 1}
		role="slider"
		tabindex="0"
		aria-label="{handle.label} of {name}"
		aria-valuenow={handle.moves === 'time' ? handle.u : handle.value}
		aria-valuetext={valueText(handle)}
		data-handle={handle.id}
		transform="translate({at.x} {at.y})"
		{@attach dragFor(handle.id)}
		onfocus={() => {
			chosen = handle.id;
			if (!picked?.has(handle.id)) pickWith(handle, false);
		}}
		onkeydown={(event) => onkeydown(event, handle)}
	>
		<circle r={handle.shape === 'diamond' ? 13 : 12} class="reach" />
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

<style>
	.handle {
		cursor: grab;
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
	.out {
		fill: var(--color-outgoing);
	}
	.in {
		fill: var(--color-incoming);
	}
	.seam {
		fill: var(--color-seam);
		stroke: #1c1c1c;
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
	/* A ring, thinner than that of the focus: colours stand for sides and for what checks find. */
	.picked .reach {
		stroke: var(--color-seam);
		stroke-width: 1;
	}
	.chosen .seam,
	.chosen rect {
		stroke: var(--color-ink);
		stroke-width: 2;
	}
</style>
