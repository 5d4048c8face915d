<script lang="ts">
	// A value chosen by sliding.
	import { Range } from 'flowbite-svelte';

	type Props = {
		label: string;
		value: number;
		low: number;
		high: number;
		step: number;
		text: string;
	};
	let { label, value = $bindable(), low, high, step, text }: Props = $props();

	const LOOK =
		'h-6 bg-transparent accent-seam [&::-moz-range-thumb]:border-0 [&::-moz-range-thumb]:bg-seam [&::-moz-range-track]:bg-edge [&::-webkit-slider-runnable-track]:h-1 [&::-webkit-slider-runnable-track]:rounded [&::-webkit-slider-runnable-track]:bg-edge [&::-webkit-slider-thumb]:-mt-1.5 [&::-webkit-slider-thumb]:bg-seam';
</script>

<Range
	size="md"
	class={LOOK}
	min={low}
	max={high}
	{step}
	aria-label={label}
	aria-valuetext={text}
	bind:value
/>
