<script lang="ts">
	// The keyframes of a curve, one at a time: time, value and the easing to the next.
	import Button from '$lib/ui/Button.svelte';
	import type { Parameter } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { tOf, uOf, type Axis } from '$lib/bench/strip/axis';
	import type { Bench } from '$lib/bench/bench.svelte';
	import EasingPicker from './EasingPicker.svelte';
	import { withKeyframe, withoutKeyframe } from '$lib/recipe/envelopes';
	import type { CurveOwner } from './curveOwner';
	import type { PickedKeyframes } from './pickedKeyframes.svelte';
	import type { Keyframes } from '$lib/recipe/recipe';
	import { shownAs } from '$lib/recipe/units';

	type Props = {
		bench: Bench;
		axis: Axis;
		keyframes: Keyframes;
		parameter: Parameter;
		curve: CurveOwner;
		picked: PickedKeyframes;
		/** The handle of the curve that was used last. */
		chosen: string;
		onchange: (keyframes: Keyframes) => void;
	};
	let {
		bench,
		axis,
		keyframes,
		parameter,
		curve,
		picked,
		chosen = $bindable(),
		onchange
	}: Props = $props();

	let count = $derived(keyframes.keyframes.length);
	let place = $derived(
		Math.min(Math.max(Number(/^keyframe-(\d+)/.exec(chosen)?.[1] ?? 1) - 1, 0), count - 1)
	);
	let keyframe = $derived(keyframes.keyframes[place]);
	let shown = $derived(shownAs(parameter));
	let places = $derived(picked.of(count));

	function go(to: number) {
		chosen = `keyframe-${Math.min(Math.max(to, 0), count - 1) + 1}`;
	}

	/** The frame of the window that covers an envelope time. */
	function frameOf(u: number): number {
		return Math.min(Math.max(Math.floor(tOf(axis, u)), -axis.before), axis.after - 1);
	}

	/** A keyframe on the shown frame, with the value that is shown there. */
	async function add() {
		const u = uOf(axis, bench.view.shown + 0.5);
		await bench.values.set(curve, bench.view.shown, null);
		go(keyframes.keyframes.findIndex((each) => Math.abs(each.at - u) < 1e-9));
	}
</script>

<div class="row">
	<span class="small">Keyframe</span>
	<Button kind="bare" low aria-label="Previous keyframe" onclick={() => go(place - 1)}>‹</Button>
	<span class="figures small">{place + 1} of {count}</span>
	<Button kind="bare" low aria-label="Next keyframe" onclick={() => go(place + 1)}>›</Button>
	<Button
		low
		class="px-1"
		aria-label="Add keyframe"
		tip="Add keyframe at the shown frame, or double-click the curve"
		onclick={add}>+</Button
	>
	<Button
		low
		class="px-1"
		aria-label="Delete keyframe"
		disabled={count < 2}
		tip="Delete keyframe (Delete)"
		onclick={() => onchange(withoutKeyframe(keyframes, place))}>−</Button
	>
</div>
{#if places.length > 1}
	<div class="row">
		<span class="small">{places.length} picked</span>
		<NumberField
			label="Stretch the picked keyframes from the shown frame"
			value={1}
			unit="%"
			scale={100}
			low={0.05}
			high={20}
			step={0.1}
			live={false}
			onchange={(factor) =>
				onchange(picked.stretched(keyframes, bench.view.shown + 0.5, factor, axis))}
		/>
		<Button low onclick={() => onchange(picked.deleted(keyframes))}>Delete</Button>
	</div>
	<p class="small hint">
		Drag or arrow keys move them · Ctrl C, Ctrl V at the shown frame, with Shift mirrored
	</p>
{:else if keyframe}
	<div class="row">
		<span class="small">Time</span>
		<NumberField
			label="Time of keyframe {place + 1}, frames from the cut"
			value={tOf(axis, keyframe.at)}
			low={-axis.before}
			high={axis.after}
			step={0.5}
			onchange={(t) => onchange(withKeyframe(keyframes, place, { at: uOf(axis, t) }))}
		/>
		{#if typeof keyframe.value === 'number'}<NumberField
				label="Value of keyframe {place + 1}"
				value={keyframe.value}
				unit={shown.unit}
				scale={shown.scale}
				step={shown.step}
				low={parameter.low ?? undefined}
				high={parameter.high ?? undefined}
				onchange={(value) => onchange(withKeyframe(keyframes, place, { value }))}
			/>{:else}
			<Button
				low
				tip="Show the frame of this keyframe: its point is then set on the picture or in its fields"
				onclick={() => bench.view.show(frameOf(keyframe?.at ?? 0))}>Show</Button
			>
		{/if}
	</div>
	{#if place < count - 1}
		<EasingPicker
			label="Easing to next"
			easing={keyframe.easing}
			onevery={(easing) => void bench.dials.ease(easing)}
			onchange={(easing) => onchange(withKeyframe(keyframes, place, { easing }))}
		/>
	{/if}
{/if}

<style>
	.row {
		display: flex;
		align-items: center;
		gap: 3px;
		height: var(--row);
		padding-left: 12px;
	}
	.hint {
		margin: 0;
		padding: 2px 0 0 12px;
		color: var(--color-quiet);
		line-height: 1.3;
	}
	.row > .figures {
		white-space: nowrap;
	}
	.row > span:first-child {
		flex: none;
		min-width: 54px;
		white-space: nowrap;
		color: var(--color-quiet);
	}
</style>
