<script lang="ts">
	// The speed ramp of one clip: its curve, its spare frames and its frame interpolation.
	import Button from '$lib/ui/Button.svelte';
	import { capitalised, fromCut } from '$lib/ui/numbers';
	import type { Axis } from '$lib/bench/strip/axis';
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import CurveTools, { rowsOf } from '$lib/bench/curves/CurveTools.svelte';
	import { changeLabel } from '$lib/recipe/labels';
	import Lane from './Lane.svelte';
	import { CLOSED_PX, ROW_PX } from './laneSizes';
	import { PickedKeyframes } from '$lib/bench/curves/pickedKeyframes.svelte';
	import LaneCurve from '$lib/bench/curves/LaneCurve.svelte';
	import FrameValueField from '$lib/bench/fields/FrameValueField.svelte';
	import { speedCurve } from '$lib/bench/curves/curveOwner';
	import { placedEnvelope, seenOf, statedEnvelope } from '$lib/recipe/times';
	import ParameterField from '$lib/bench/fields/ParameterField.svelte';
	import { rampCost } from '$lib/bench/speed/rampCost';
	import RetimeChoice from '$lib/bench/cards/RetimeChoice.svelte';
	import { mainName, movesOf, type Envelope } from '$lib/recipe/recipe';
	import { CHOICES, retimeOf, setRetime } from '$lib/bench/speed/speed';
	import { valueText } from '$lib/recipe/units';

	let { bench, axis, side }: { bench: Bench; axis: Axis; side: ClipSide } = $props();

	const HEAD_ROWS = 5;

	let id = $derived(`retime-${side}`);
	let open = $derived(bench.view.selected === id);
	let speed = $derived(placedEnvelope(retimeOf(bench.transition.recipe, side).speed, axis));
	let parameter = $derived(bench.catalogue.speed);
	let height = $derived(open ? (HEAD_ROWS + rowsOf(speed)) * ROW_PX + 16 : CLOSED_PX);
	let drawn = $derived(
		bench.preview.curves.find((each) => each.filter_id === 'retime' && each.parameter === side)
	);
	let retime = $derived(retimeOf(bench.transition.recipe, side));
	let placed = $derived(bench.transition.cut[side]);
	let cost = $derived(rampCost(side, retime.in_edit, bench.preview.spareFramesUsed[side], placed));
	let handle = $state('');
	const picked = new PickedKeyframes();
	let curveOwner = $derived(speedCurve(side, parameter));
	let isOwn = $derived(side === 'outgoing' ? bench.view.shown < 0 : bench.view.shown >= 0);
	let now = $derived.by(() => {
		const keyframe = bench.values.keyframe(speed, bench.view.shown);
		if (typeof keyframe === 'number') return keyframe;
		return drawn?.values[bench.view.shown + axis.before] ?? 1;
	});
	let isAnimated = $derived(['swell', 'travel', 'keyframes'].includes(movesOf(speed)));

	function set(next: Envelope) {
		const was = retimeOf(bench.transition.asSaved, side).speed;
		const stated = statedEnvelope(retimeOf(bench.transition.recipe, side).speed, next, axis);
		setRetime(bench.transition, side, { speed: stated }, changeLabel(side, parameter, was, next));
	}
</script>

{#snippet field()}
	<ParameterField
		{bench}
		{parameter}
		owner="{side === 'outgoing' ? 'Outgoing' : 'Incoming'} clip"
		value={speed}
		onchange={set}
	/>
{/snippet}

<Lane label="Speed of the {side} clip" {open} {height} onselect={() => bench.view.select(id)}>
	{#snippet left()}
		<button class="name alone" aria-expanded={open} onclick={() => bench.view.select(id)}>
			<span>Speed</span>
			<span class="small text-quiet">{side === 'outgoing' ? 'Outgoing clip' : 'Incoming clip'}</span
			>
		</button>
		{#if open}
			<CurveTools
				{bench}
				{axis}
				envelope={speed}
				{parameter}
				owner="Speed of the {side} clip"
				only={side}
				curve={curveOwner}
				{picked}
				bind:handle
				onchange={set}
			/>
		{/if}
	{/snippet}
	{#snippet curve()}
		<LaneCurve
			{axis}
			curve={drawn}
			{height}
			{open}
			envelope={speed}
			bind:chosen={handle}
			{picked}
			shown={bench.view.shown}
			showSpeed={bench.view.showSpeed && open}
			rest={1}
			only={side}
			acts={seenOf(side, bench.transition.recipe.mix, axis)}
			name="speed of the {side} clip"
			low={parameter.low ?? undefined}
			high={parameter.high ?? undefined}
			caption="{capitalised(mainName(movesOf(speed)))} {valueText(parameter, speed)}"
			onchange={set}
		/>
	{/snippet}
	{#snippet right()}
		<div class="parameter">
			<span class="label small">Speed {mainName(movesOf(speed))}</span>
			{@render field()}
		</div>
		{#if open && isAnimated && isOwn}
			<div class="parameter">
				<span class="label small">At {fromCut(bench.view.shown)}</span>
				<FrameValueField {bench} curve={curveOwner} owner="Speed of the {side} clip" value={now} />
			</div>
		{/if}
		{#if open}
			{#each Object.keys(CHOICES) as (keyof typeof CHOICES)[] as choice (choice)}
				<div class="parameter">
					<span class="label small">{CHOICES[choice].name}</span>
					<RetimeChoice {bench} {side} {choice} />
				</div>
			{/each}
			<p class="small cost">{cost}</p>
			<div class="parameter">
				<span></span>
				<Button
					low
					kind="bare"
					onclick={() =>
						setRetime(
							bench.transition,
							side,
							{ speed: 1 },
							`Remove speed ramp of the ${side} clip`
						)}>Remove</Button
				>
			</div>
		{/if}
	{/snippet}
</Lane>
