<script lang="ts">
	// When a curve begins, is full and ends, in frames from the cut; on which frame it peaks; and whether
	// that stays so under the duration.
	import type { Bench } from '$lib/bench/bench.svelte';
	import { tOf, uOf, type Axis } from '$lib/bench/strip/axis';
	import { movesOf, type Envelope, type Swell } from '$lib/recipe/recipe';
	import { countedEnvelope } from '$lib/recipe/times';
	import Button from '$lib/ui/Button.svelte';
	import Check from '$lib/ui/Check.svelte';
	import { clamped } from '$lib/ui/numbers';
	import NumberField from '$lib/ui/NumberField.svelte';
	import Popover from '$lib/ui/Popover.svelte';
	import Select from '$lib/ui/Select.svelte';
	import type { CurveOwner } from './curveOwner';
	import { handlesOf } from './envelopeHandles';
	import { peakOf, peakOn, PEAKS, type Peak } from './peakFrames';

	type Props = {
		bench: Bench;
		axis: Axis;
		envelope: Envelope;
		curve: CurveOwner;
		/** Whether the times are stated in frames. */
		isInFrames: boolean;
		name: string;
		onchange: (next: Envelope) => void;
	};
	let { bench, axis, envelope, curve, isInFrames, name, onchange }: Props = $props();

	let moves = $derived(movesOf(envelope));
	let times = $derived(
		handlesOf(envelope, curve.parameter.rest ?? 0).filter(({ shape }) => shape === 'square')
	);
	let peak = $derived(moves === 'swell' ? peakOf(envelope as Swell, axis) : undefined);

	/** What is stated in the recipe, not the times that are shown of it. */
	function write(label: string, change: (stated: Envelope) => Envelope) {
		bench.transition.change(label, (recipe) =>
			curve.write(recipe, change(curve.read(recipe) ?? envelope))
		);
	}
</script>

{#if ['swell', 'travel', 'keyframes'].includes(moves)}
	<Popover label="Times of {name}" placement="right">
		{#snippet button(attributes)}<Button
				{...attributes}
				low
				class="px-1.5"
				aria-label="Times of {name}">Times</Button
			>{/snippet}
		<div class="times">
			{#if peak}
				<span>Peak on frame</span>
				<Select
					label="Frame on which {name} peaks"
					value={peak}
					items={PEAKS.filter(({ value }) => value !== 'elsewhere' || peak === 'elsewhere')}
					onchange={(next) =>
						write(`Peak of ${curve.title}`, (stated) => peakOn(stated as Swell, next as Peak))}
				/>
			{/if}
			{#each times as handle (handle.id)}
				<span>{handle.label}</span>
				<NumberField
					label="{handle.label} of {name}, frames from the cut"
					unit="frames"
					value={tOf(axis, handle.u)}
					low={-axis.before}
					high={axis.after}
					step={0.5}
					onchange={(t) =>
						onchange(handle.moved({ u: clamped(uOf(axis, t), -1, 1), value: handle.value }))}
				/>
			{/each}
			<span>Fixed</span>
			<span class="fixed">
				<Check
					label="Keep the times of {name} in frames when the duration changes"
					checked={isInFrames}
					onchange={(on) =>
						write(`Times of ${curve.title} ${on ? 'in frames' : 'with the window'}`, (stated) =>
							countedEnvelope(stated, axis, on)
						)}
				/>
				<span class="small text-quiet">frames, whatever the duration</span>
			</span>
		</div>
	</Popover>
{/if}

<style>
	.times {
		display: grid;
		grid-template-columns: auto auto;
		align-items: center;
		gap: 6px 12px;
		white-space: nowrap;
	}
	.fixed {
		display: flex;
		align-items: center;
		gap: 4px;
	}
</style>
