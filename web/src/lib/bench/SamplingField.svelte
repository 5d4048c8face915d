<script lang="ts">
	// What a clip shows where its speed asks for a moment between two of its frames.
	import type { Bench, ClipSide } from './bench.svelte';
	import { retimeOf, setRetime } from './speed';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	const SAMPLINGS = ['nearest', 'blend', 'flow'];
</script>

<select
	class="choice between"
	aria-label="What is shown between frames of the {side} clip"
	value={retimeOf(bench.recipe, side).sampling}
	onchange={({ currentTarget: { value } }) =>
		setRetime(bench, side, { sampling: value }, `${side} clip: ${value} between frames`)}
>
	{#each SAMPLINGS as each (each)}<option value={each}>{each}</option>{/each}
</select>

<style>
	.between {
		min-width: 84px;
	}
</style>
