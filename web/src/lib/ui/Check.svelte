<script lang="ts">
	// A box to tick.
	import { Checkbox } from 'flowbite-svelte';

	type Props = { label: string; checked: boolean; onchange: (checked: boolean) => void };
	let { label, checked, onchange }: Props = $props();
</script>

<label class="target">
	<Checkbox
		aria-label={label}
		bind:checked={() => checked, (next) => next !== checked && onchange(next ?? false)}
	/>
</label>

<style>
	.target {
		display: inline-flex;
		align-items: center;
		justify-content: center;
		min-width: 24px;
		min-height: 24px;
	}
</style>
