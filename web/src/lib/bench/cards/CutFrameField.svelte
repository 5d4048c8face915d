<script lang="ts">
	// The frame of a clip that meets the other one at the cut: stepped, slipped, matched.
	import type { Bench } from '$lib/bench/bench.svelte';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import type { Compare } from '$lib/bench/view.svelte';
	import Button from '$lib/ui/Button.svelte';
	import { timecode } from '$lib/ui/numbers';
	import Switch from '$lib/ui/Switch.svelte';
	import CardField from './CardField.svelte';
	import MatchFrames from './MatchFrames.svelte';
	import { stepCutFrames } from '../cutSteps';

	type Props = { bench: Bench; side: ClipSide; frame: number };
	let { bench, side, frame }: Props = $props();

	const FAR = 5;
	let open = $state(false);
	let slip = $state(false);
	/** The view before both cut frames were overlaid; null while they are not. */
	let before = $state<Compare | null>(null);
	let transition = $derived(bench.transition);
	let what = $derived(side === 'outgoing' ? 'last frame' : 'first frame');

	// Both cut frames are seen while one of them is stepped.
	export function step(by: number) {
		before ??= bench.view.compare;
		bench.view.setCompare('cut frames');
		void stepCutFrames(transition, { [side]: by, slip });
	}

	export function leave() {
		if (before === null || open) return;
		bench.view.setCompare(before);
		before = null;
	}

	let wasOpen = false;
	$effect(() => {
		if (wasOpen && !open) leave();
		wasOpen = open;
	});
</script>

<span
	class="field"
	onfocusout={(event) => {
		if (!event.currentTarget.contains(event.relatedTarget as Node | null)) leave();
	}}
>
	<Button
		kind="bare"
		low
		aria-label="One frame earlier: {what} of the {side} clip"
		onclick={() => step(-1)}>‹</Button
	>
	<CardField
		name="Cut frame"
		{side}
		width={300}
		summary={timecode(frame, transition.rate)}
		tip="Step, slip or match this frame"
		bind:open
	>
		<div class="steps">
			{#each [-FAR, -1, 1, FAR] as by (by)}
				<Button
					aria-label="{slip ? 'Slip' : 'Step'} the {side} clip by {by} frames"
					onclick={() => step(by)}>{by > 0 ? `+${by}` : `−${-by}`}</Button
				>
			{/each}
			<Switch
				label="Slip: keep the length"
				tip="The other end of the clip moves within its source too, so that the edit keeps its length"
				on={slip}
				onchange={(on) => (slip = on)}>Slip</Switch
			>
		</div>
		{#if open}<MatchFrames {bench} {slip} />{/if}
	</CardField>
	<Button
		kind="bare"
		low
		aria-label="One frame later: {what} of the {side} clip"
		onclick={() => step(1)}>›</Button
	>
</span>

<style>
	.field {
		display: inline-flex;
		align-items: center;
	}
	.steps {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 6px;
	}
</style>
