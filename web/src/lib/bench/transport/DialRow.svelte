<script lang="ts">
	// The whole recipe at once: strength, duration, snap, shutter, flips and turns.
	import type { Actions } from '$lib/bench/actions';
	import type { Bench } from '$lib/bench/bench.svelte';
	import { blurPressed } from '$lib/ui/focus';
	import { DURATION, SHUTTER, SNAP, STRENGTH, type DialField } from '$lib/recipe/dialFields';
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import VariantRow from './VariantRow.svelte';

	let { bench, actions }: { bench: Bench; actions: Actions } = $props();

	let { transition, dials } = $derived(bench);
	let fields = $derived<DialField[]>([
		{
			...STRENGTH,
			value: dials.strength,
			onchange: (value: number) => void dials.setStrength(value)
		},
		{
			...DURATION,
			value: transition.before + transition.after,
			rate: transition.rate,
			high: transition.cut.most_before + transition.cut.most_after,
			onchange: (total: number) => void dials.setDuration(total)
		},
		{
			...SNAP,
			value: dials.snap,
			onchange: (value: number) => void dials.setSnap(value)
		},
		{
			...SHUTTER,
			value: transition.recipe.shutter,
			rest: 0,
			onchange: (shutter: number) => dials.setShutter(shutter)
		}
	]);
</script>

<div class="bar">
	<span></span>
	<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
	<div class="dials" role="group" aria-label="The whole transition" onclick={blurPressed}>
		{#each fields as { label, ...field } (label)}
			<span class="dial"
				><span class="small text-quiet">{label}</span>
				<NumberField {label} {...field} /></span
			>
		{/each}
		<Button low tip={actions.flip.tip} onclick={() => actions.flip.run()}>Flip horizontally</Button>
		<Button low tip={actions.flipVertically.tip} onclick={() => actions.flipVertically.run()}
			>Flip vertically</Button
		>
		<Button
			low
			tip={actions.turn.tip}
			aria-label="Turn 90° counter-clockwise"
			onclick={() => actions.turn.run()}>↺ 90°</Button
		>
		<Button
			low
			tip={actions.turnBack.tip}
			aria-label="Turn 90° clockwise"
			onclick={() => actions.turnBack.run()}>↻ 90°</Button
		>
	</div>
	<VariantRow variants={bench.variants} />
</div>

<style>
	.bar {
		display: grid;
		flex: none;
		grid-template-columns: 1fr auto 1fr;
		align-items: center;
		min-height: 32px;
		gap: 4px 12px;
		padding: 3px 16px;
		border-bottom: 1px solid var(--color-line);
		background: var(--color-page);
	}
	.dials {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 4px 12px;
	}
	.dial {
		display: inline-flex;
		align-items: center;
		gap: 6px;
	}
	@container (max-width: 1180px) {
		.bar {
			display: flex;
			flex-wrap: wrap;
			justify-content: center;
		}
	}
</style>
