<script lang="ts">
	// Frame interpolation: what a clip shows at a time between two of its frames.
	import type { Bench } from '$lib/bench/bench.svelte';
	import { retimeOf, setRetime } from '$lib/bench/lanes/speed';
	import type { ClipSide } from '$lib/bench/transition.svelte';
	import Select from '$lib/ui/Select.svelte';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	const SAMPLINGS = [
		{ value: 'nearest', name: 'Nearest' },
		{ value: 'blend', name: 'Blend' },
		{ value: 'flow', name: 'Optical flow' }
	];

	function set(sampling: string) {
		const name = SAMPLINGS.find(({ value }) => value === sampling)?.name.toLowerCase();
		const label = `Frame interpolation of the ${side} clip: ${name}`;
		setRetime(bench.transition, side, { sampling }, label);
	}
</script>

<Select
	label="Frame interpolation of the {side} clip"
	value={retimeOf(bench.transition.recipe, side).sampling}
	items={SAMPLINGS}
	onchange={set}
/>
