<script lang="ts">
	// The speed ramp of a clip: how fast it runs at the cut, and how many frames that spends.
	import CardField from './CardField.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { counted, rounded } from '$lib/ui/numbers';
	import type { Bench, ClipSide } from './bench.svelte';
	import SamplingField from './SamplingField.svelte';
	import { mainValue } from './recipe';
	import { peakLabel, retimeOf, setRetime, withPeak } from './speed';

	let { bench, side }: { bench: Bench; side: ClipSide } = $props();

	let speed = $derived(retimeOf(bench.recipe, side).speed);
	let peak = $derived(Number(mainValue(speed)));
	let spent = $derived(bench.preview.spent[side]);
	let summary = $derived(
		speed === 1
			? 'as it runs'
			: `${rounded(peak * 100, 1)} % · ${spent < 0 ? '−' : '+'}${rounded(Math.abs(spent), 0.1)}`
	);

	function setPeak(value: number) {
		setRetime(bench, side, { speed: withPeak(speed, value) }, peakLabel(side, speed, value));
	}
</script>

<CardField
	name="Speed"
	{side}
	{summary}
	width={210}
	title={speed === 1
		? 'As it runs: set a speed for this side of the window'
		: `Spends ${counted(rounded(spent, 0.1), 'frame')} more than the window has`}
>
	<div class="line">
		<span class="quiet">at the cut</span>
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
		<span class="quiet">between frames</span>
		<SamplingField {bench} {side} />
	</div>
	<p class="small quiet">
		{#if speed === 1}
			Nothing spent: the clip runs as it is.
		{:else}
			{rounded(Math.abs(spent), 0.1)} frames {spent < 0 ? 'fewer' : 'more'} than the window has. Its curve
			is a lane below.
		{/if}
	</p>
</CardField>
