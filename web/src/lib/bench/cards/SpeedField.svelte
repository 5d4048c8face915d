<script lang="ts">
	// The speed ramp of a clip: its speed at the cut, and the spare frames that it uses.
	import CardField from './CardField.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { rounded } from '$lib/ui/numbers';
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import RetimeChoice from './RetimeChoice.svelte';
	import { mainValue } from '$lib/recipe/recipe';
	import { rampCost } from '$lib/bench/speed/rampCost';
	import { CHOICES, peakLabel, retimeOf, setRetime, withPeak } from '$lib/bench/speed/speed';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	let speed = $derived(retimeOf(bench.transition.recipe, side).speed);
	let peak = $derived(Number(mainValue(speed)));
	let spareFramesUsed = $derived(bench.preview.spareFramesUsed[side]);
	let retime = $derived(retimeOf(bench.transition.recipe, side));
	let cost = $derived(rampCost(side, retime.in_edit, spareFramesUsed, bench.transition.cut[side]));
	let summary = $derived(
		speed === 1
			? 'Normal'
			: `${rounded(peak * 100, 1)} % · ${spareFramesUsed < 0 ? '−' : '+'}${Math.abs(spareFramesUsed)}`
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
	width={280}
	tip={speed === 1 ? 'Set a speed for this side of the window' : cost}
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
	{#each Object.keys(CHOICES) as (keyof typeof CHOICES)[] as choice (choice)}
		<div class="line">
			<span class="text-quiet">{CHOICES[choice].name}</span>
			<RetimeChoice {bench} {side} {choice} />
		</div>
	{/each}
	<p class="small text-quiet">{cost}{speed === 1 ? '' : '. Edit the curve in the lane below.'}</p>
</CardField>
