<script lang="ts">
	// The speed ramp of a clip: its speed at the cut, and the spare frames that it uses.
	import CardField from './CardField.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { counted, rounded } from '$lib/ui/numbers';
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { ClipSide } from '$lib/bench/transition.svelte';
	import SamplingField from './SamplingField.svelte';
	import { mainValue } from '$lib/recipe/recipe';
	import { peakLabel, retimeOf, setRetime, withPeak } from '$lib/bench/lanes/speed';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	let speed = $derived(retimeOf(bench.transition.recipe, side).speed);
	let peak = $derived(Number(mainValue(speed)));
	let spareFramesUsed = $derived(bench.preview.spareFramesUsed[side]);
	let summary = $derived(
		speed === 1
			? 'Normal'
			: `${rounded(peak * 100, 1)} % · ${spareFramesUsed < 0 ? '−' : '+'}${rounded(Math.abs(spareFramesUsed), 0.1)}`
	);

	function setPeak(value: number) {
		setRetime(
			bench.transition,
			side,
			{ speed: withPeak(speed, value) },
			peakLabel(side, speed, value)
		);
	}
</script>

<CardField
	name="Speed"
	{side}
	{summary}
	width={240}
	tip={speed === 1
		? 'Set a speed for this side of the window'
		: `Spare frames used: ${rounded(spareFramesUsed, 0.1)}`}
>
	<div class="line">
		<span class="text-quiet">At the cut</span>
		<NumberField
			label="Speed of the {side} clip at the cut"
			value={peak}
			unit="%"
			scale={100}
			step={0.05}
			low={0}
			high={20}
			rest={1}
			onchange={setPeak}
		/>
	</div>
	<div class="line">
		<span class="text-quiet">Frame interpolation</span>
		<SamplingField {bench} {side} />
	</div>
	<p class="small text-quiet">
		{#if speed === 1}
			Uses no spare frames
		{:else}
			Uses {counted(rounded(Math.abs(spareFramesUsed), 0.1), 'frame')}
			{spareFramesUsed < 0 ? 'fewer' : 'more'} than the window has. Edit the curve in the lane below.
		{/if}
	</p>
</CardField>
