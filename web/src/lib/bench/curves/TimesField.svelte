<script lang="ts">
	// When a curve begins, is full and ends, in frames from the cut: what its square handles drag.
	import { tOf, uOf, type Axis } from '$lib/bench/strip/axis';
	import type { Envelope } from '$lib/recipe/recipe';
	import Button from '$lib/ui/Button.svelte';
	import { clamped } from '$lib/ui/numbers';
	import NumberField from '$lib/ui/NumberField.svelte';
	import Popover from '$lib/ui/Popover.svelte';
	import { handlesOf } from './envelopeHandles';

	type Props = {
		axis: Axis;
		envelope: Envelope;
		rest: number;
		name: string;
		onchange: (next: Envelope) => void;
	};
	let { axis, envelope, rest, name, onchange }: Props = $props();

	let times = $derived(handlesOf(envelope, rest).filter(({ shape }) => shape === 'square'));
</script>

{#if times.length}
	<Popover label="Times of {name}" placement="right">
		{#snippet button(attributes)}<Button
				{...attributes}
				low
				class="px-1.5"
				aria-label="Times of {name}">Times</Button
			>{/snippet}
		<div class="times">
			{#each times as handle (handle.id)}
				<span>{handle.label}</span>
				<NumberField
					label="{handle.label} of {name}, frames from the cut"
					unit="frames"
					value={tOf(axis, handle.u)}
					low={-axis.before}
					high={axis.after}
					step={0.5}
					onchange={(t) => {
						const u = Number(clamped(uOf(axis, t), -1, 1).toFixed(4));
						onchange(handle.moved({ u, value: handle.value }));
					}}
				/>
			{/each}
		</div>
	</Popover>
{/if}

<style>
	.times {
		display: grid;
		grid-template-columns: auto auto;
		align-items: center;
		gap: 6px 12px;
	}
</style>
