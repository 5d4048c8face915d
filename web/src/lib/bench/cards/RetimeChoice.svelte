<script lang="ts">
	// A choice of a speed ramp: what is shown between frames, what the edit does, what is heard.
	import type { Bench } from '$lib/bench/bench.svelte';
	import { CHOICES, retimeOf, setRetime, type RetimeChoice } from '$lib/bench/speed/speed';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import Select from '$lib/ui/Select.svelte';

	let { bench, side, choice }: { bench: Bench; side: ClipSide; choice: RetimeChoice } = $props();

	let { name, items } = $derived(CHOICES[choice]);

	function set(value: string) {
		const chosen = items.find((each) => each.value === value)?.name.toLowerCase();
		const label = `${name} of the ${side} clip: ${chosen}`;
		setRetime(bench.transition, side, { [choice]: value }, label);
	}
</script>

<Select
	label="{name} of the {side} clip"
	value={retimeOf(bench.transition.recipe, side)[choice]}
	{items}
	onchange={set}
/>
