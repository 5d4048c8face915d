<script lang="ts">
	// The keys of a curve, one at a time: its frame, its value, how it goes on to the next.
	import type { Parameter } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { tOf, uOf, type Axis } from './axis';
	import type { Bench } from './bench.svelte';
	import EasingPicker from './EasingPicker.svelte';
	import { withKey, withNewKey, withoutKey } from './envelopes';
	import type { Keys } from './recipe';
	import { shownAs } from './units';

	type Props = {
		bench: Bench;
		axis: Axis;
		keys: Keys;
		parameter: Parameter;
		/** The value at the shown frame, for a new key there. */
		current: number;
		/** Of the curve's handles, the one grabbed last. */
		chosen: string;
		onchange: (keys: Keys) => void;
	};
	let { bench, axis, keys, parameter, current, chosen = $bindable(), onchange }: Props = $props();

	let count = $derived(keys.keys.length);
	let place = $derived(
		Math.min(Math.max(Number(/^key-(\d+)/.exec(chosen)?.[1] ?? 1) - 1, 0), count - 1)
	);
	let key = $derived(keys.keys[place]);
	let shown = $derived(shownAs(parameter));

	function go(to: number) {
		chosen = `key-${Math.min(Math.max(to, 0), count - 1) + 1}`;
	}

	function add() {
		const u = Number(uOf(axis, bench.shown + 0.5).toFixed(4));
		const more = withNewKey(keys, Math.min(1, Math.max(-1, u)), current);
		onchange(more);
		go(more.keys.findIndex((each) => Math.abs(each.at - u) < 0.001));
	}
</script>

<div class="row">
	<span class="small">key</span>
	<button class="bare-button" aria-label="Previous key" onclick={() => go(place - 1)}>‹</button>
	<span class="figures small">{place + 1} of {count}</span>
	<button class="bare-button" aria-label="Next key" onclick={() => go(place + 1)}>›</button>
	<button
		class="plain-button"
		aria-label="Add a key"
		title="A key at the shown frame, or double-click the curve"
		onclick={add}>+</button
	>
	<button
		class="plain-button"
		aria-label="Take the key out"
		disabled={count < 2}
		title="Take this key out (Delete)"
		onclick={() => onchange(withoutKey(keys, place))}>−</button
	>
</div>
{#if key && typeof key.value === 'number'}
	<div class="row">
		<span class="small">at</span>
		<NumberField
			label="Time of key {place + 1}, frames from the cut"
			value={tOf(axis, key.at)}
			low={-axis.before}
			high={axis.after}
			step={0.5}
			onchange={(t) => onchange(withKey(keys, place, { at: Number(uOf(axis, t).toFixed(4)) }))}
		/>
		<NumberField
			label="Value of key {place + 1}"
			value={key.value}
			unit={shown.unit}
			scale={shown.scale}
			step={shown.step}
			low={parameter.low ?? undefined}
			high={parameter.high ?? undefined}
			onchange={(value) => onchange(withKey(keys, place, { value }))}
		/>
	</div>
	{#if place < count - 1}
		<EasingPicker
			id="key-{parameter.name}"
			label="then"
			easing={key.ease}
			catalogue={bench.catalogue}
			onchange={(ease) => onchange(withKey(keys, place, { ease }))}
		/>
	{/if}
{/if}

<style>
	.row {
		display: flex;
		align-items: center;
		gap: 6px;
		height: var(--row);
	}
	.row > .figures {
		white-space: nowrap;
	}
	.plain-button {
		height: 20px;
		padding: 0 7px;
	}
	.row > span:first-child {
		width: 34px;
		color: var(--color-quiet);
	}
</style>
