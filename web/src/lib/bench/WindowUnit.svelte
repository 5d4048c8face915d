<script lang="ts">
	// The unit of the window: frames, seconds or beats.
	import { capitalised } from '$lib/ui/numbers';
	import type { Bench } from './bench.svelte';
	import { windowUnit, WINDOW_UNITS, type WindowUnitName } from './windowUnit.svelte';

	let { bench }: { bench: Bench } = $props();

	let units = $derived(
		WINDOW_UNITS.filter((each) => each !== 'beats' || bench.cut.beats_per_minute)
	);
	let shown = $derived(units.find((each) => each === windowUnit.chosen) ?? 'frames');
</script>

<select
	class="unit"
	aria-label="Unit of the window"
	value={shown}
	onchange={({ currentTarget }) => windowUnit.choose(currentTarget.value as WindowUnitName)}
>
	{#each units as each (each)}<option value={each}>{capitalised(each)}</option>{/each}
</select>

<style>
	.unit {
		height: 18px;
		padding: 0 16px 0 0;
		border: 0;
		border-bottom: 1px dotted var(--color-quiet);
		background-color: transparent;
		background-position: right 2px center;
		background-size: 8px;
		color: inherit;
		font: inherit;
	}
</style>
