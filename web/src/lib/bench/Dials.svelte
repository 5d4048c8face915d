<script lang="ts">
	// The whole recipe at once: strength of every peak, length of the window, steepness, flips.
	import { api, need } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { notices } from '$lib/ui/notices.svelte';
	import type { Bench } from './bench.svelte';
	import { letGo } from './keys';
	import type { Recipe } from './recipe';
	import VariantRow from './VariantRow.svelte';

	let { bench }: { bench: Bench } = $props();

	type Flip = 'left_right' | 'up_down';
	const USUAL_SNAP = 0.5;
	let strength = $state(1);
	let snap = $state<number | null>(null);
	// The dials turn what was there before they were touched; any other change is a new start.
	let base = $state.raw<Recipe | null>(null);
	let made = $state.raw<Recipe | null>(null);
	let asked = 0;

	$effect(() => {
		if (made === null || bench.recipe === made) return;
		base = made = snap = null;
		strength = 1;
	});

	async function turn(next: { strength?: number; snap?: number }, label: string) {
		strength = next.strength ?? strength;
		snap = next.snap ?? snap;
		base ??= bench.recipe;
		const number = ++asked;
		const body = { recipe: base as never, strength, snap };
		const reshaped = await reshape(body);
		// Only the latest turn counts.
		if (!reshaped || number !== asked) return;
		made = reshaped;
		bench.change(label, () => reshaped);
	}

	async function flip(axis: Flip) {
		const reshaped = await reshape({ recipe: bench.recipe as never, strength: 1, flip: axis });
		if (reshaped) bench.change(`flip ${axis.replace('_', ' and ')}`, () => reshaped);
	}

	async function reshape(body: {
		recipe: never;
		strength: number;
		snap?: number | null;
		flip?: Flip;
	}): Promise<Recipe | null> {
		try {
			return (await need(api.POST('/api/reshape', { body }))).recipe as Recipe;
		} catch (error) {
			notices.wrong(error);
			return null;
		}
	}

	/** Both sides grow by the same share. */
	function spread(total: number) {
		const factor = total / (bench.before + bench.after);
		bench.setWindow(bench.before * factor, bench.after * factor);
	}

	function setShutter(shutter: number) {
		bench.change(`shutter ${shutter}°`, (recipe) => ({ ...recipe, shutter }));
	}
</script>

<div class="bar">
	<span></span>
	<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
	<div class="dials" role="group" aria-label="The whole transition" onclick={letGo}>
		<span class="dial"
			><span class="small quiet">strength</span>
			<NumberField
				label="Strength of the whole transition"
				value={strength}
				unit="%"
				scale={100}
				low={0}
				high={4}
				step={0.05}
				rest={1}
				onchange={(value) => turn({ strength: value }, `strength ${Math.round(value * 100)} %`)}
			/></span
		>
		<span class="dial"
			><span class="small quiet">spread</span>
			<NumberField
				label="Frames of the whole window"
				value={bench.before + bench.after}
				unit="frames"
				low={2}
				high={bench.cut.most_before + bench.cut.most_after}
				step={2}
				onchange={spread}
			/></span
		>
		<span class="dial"
			><span class="small quiet">snap</span>
			<NumberField
				label="Snap of every curve"
				value={snap ?? USUAL_SNAP}
				unit="%"
				scale={100}
				low={0}
				high={1}
				step={0.05}
				onchange={(value) => turn({ snap: value }, `snap ${Math.round(value * 100)} %`)}
			/></span
		>
		<span class="dial"
			><span class="small quiet">shutter</span>
			<NumberField
				label="Shutter"
				value={bench.recipe.shutter}
				unit="°"
				low={0}
				high={720}
				step={15}
				rest={0}
				onchange={setShutter}
			/></span
		>
		<button
			class="plain-button"
			title="Flip left and right (D)"
			data-flip="left_right"
			onclick={() => flip('left_right')}>flip ↔</button
		>
		<button
			class="plain-button"
			title="Flip up and down (Shift D)"
			data-flip="up_down"
			onclick={() => flip('up_down')}>flip ↕</button
		>
	</div>
	<VariantRow {bench} />
</div>

<style>
	.bar {
		display: grid;
		flex: none;
		grid-template-columns: 1fr auto 1fr;
		align-items: center;
		height: 32px;
		padding: 0 16px;
		border-bottom: 1px solid var(--color-line);
		background: var(--color-page);
	}
	.dials {
		display: flex;
		align-items: center;
		gap: 14px;
	}
	.dial {
		display: inline-flex;
		align-items: center;
		gap: 6px;
	}
	.plain-button {
		height: 22px;
	}
	.quiet {
		color: var(--color-quiet);
	}
</style>
