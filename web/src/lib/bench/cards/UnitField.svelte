<script lang="ts">
	// The unit of the window: frames, seconds or beats.
	import type { TransitionDocument } from '$lib/bench/transition.svelte';
	import { capitalised } from '$lib/ui/numbers';
	import Select from '$lib/ui/Select.svelte';
	import { unitChoice, WINDOW_UNITS } from './unitChoice.svelte';

	let { transition }: { transition: TransitionDocument } = $props();

	let items = $derived(
		WINDOW_UNITS.filter((unit) => unit !== 'beats' || transition.cut.beats_per_minute).map(
			(value) => ({ value, name: capitalised(value) })
		)
	);
	let shown = $derived(items.find(({ value }) => value === unitChoice.chosen)?.value ?? 'frames');
</script>

<span class="unit"
	><Select
		inline
		label="Unit of the window"
		value={shown}
		{items}
		onchange={(unit) => unitChoice.choose(unit)}
	/></span
>

<style>
	.unit {
		display: inline-block;
	}
</style>
