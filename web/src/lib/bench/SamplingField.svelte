<script lang="ts">
	// Frame interpolation: what a clip shows at a time between two of its frames.
	import type { Bench, ClipSide } from './bench.svelte';
	import { retimeOf, setRetime } from './speed';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	const SAMPLINGS = { nearest: 'Nearest', blend: 'Blend', flow: 'Optical flow' };
</script>

<select
	class="choice between"
	aria-label="Frame interpolation of the {side} clip"
	value={retimeOf(bench.recipe, side).sampling}
	onchange={({ currentTarget: { value } }) =>
		setRetime(
			bench,
			side,
			{ sampling: value },
			`Frame interpolation of the ${side} clip: ${SAMPLINGS[value as keyof typeof SAMPLINGS].toLowerCase()}`
		)}
>
	{#each Object.entries(SAMPLINGS) as [value, name] (value)}<option {value}>{name}</option>{/each}
</select>

<style>
	.between {
		min-width: 84px;
	}
</style>
