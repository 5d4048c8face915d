<script lang="ts">
	// The whole recipe at once: strength, duration, snap, shutter and flips.
	import { api, request } from '$lib/api/client';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import type { Bench } from './bench.svelte';
	import { blurPressed } from './keys';
	import type { Recipe } from './recipe';
	import VariantRow from './VariantRow.svelte';

	let { bench }: { bench: Bench } = $props();

	type Flip = 'horizontal' | 'vertical';
	const USUAL_SNAP = 0.5;
	let strength = $state(1);
	let snap = $state<number | null>(null);
	// The dials adjust the recipe as it was before they were touched; any other change starts anew.
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
		const adjusted = await adjust(body);
		// Only the latest answer counts.
		if (!adjusted || number !== asked) return;
		made = adjusted;
		bench.change(label, () => adjusted);
	}

	async function flip(axis: Flip) {
		const adjusted = await adjust({ recipe: bench.recipe as never, strength: 1, flip: axis });
		if (adjusted)
			bench.change(axis === 'horizontal' ? 'Flip horizontally' : 'Flip vertically', () => adjusted);
	}

	async function adjust(body: {
		recipe: never;
		strength: number;
		snap?: number | null;
		flip?: Flip;
	}): Promise<Recipe | null> {
		try {
			return (await request(api.POST('/api/adjust', { body }))).recipe as Recipe;
		} catch (error) {
			toast.error(error);
			return null;
		}
	}

	/** Both sides of the window change by the same factor. */
	function setDuration(total: number) {
		const factor = total / (bench.before + bench.after);
		bench.setWindow(bench.before * factor, bench.after * factor);
	}

	function setShutter(shutter: number) {
		bench.change(`Shutter ${shutter}°`, (recipe) => ({ ...recipe, shutter }));
	}
</script>

<div class="bar">
	<span></span>
	<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
	<div class="dials" role="group" aria-label="The whole transition" onclick={blurPressed}>
		<span class="dial"
			><span class="small quiet">Strength</span>
			<NumberField
				label="Strength"
				value={strength}
				unit="%"
				scale={100}
				low={0}
				high={4}
				step={0.05}
				rest={1}
				onchange={(value) => turn({ strength: value }, `Strength ${Math.round(value * 100)} %`)}
			/></span
		>
		<span class="dial"
			><span class="small quiet">Duration</span>
			<NumberField
				label="Duration"
				value={bench.before + bench.after}
				unit="frames"
				low={2}
				high={bench.cut.most_before + bench.cut.most_after}
				step={2}
				onchange={setDuration}
			/></span
		>
		<span class="dial"
			><span class="small quiet">Snap</span>
			<NumberField
				label="Snap"
				value={snap ?? USUAL_SNAP}
				unit="%"
				scale={100}
				low={0}
				high={1}
				step={0.05}
				onchange={(value) => turn({ snap: value }, `Snap ${Math.round(value * 100)} %`)}
			/></span
		>
		<span class="dial"
			><span class="small quiet">Shutter</span>
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
			title="Flip horizontally (D)"
			data-flip="horizontal"
			onclick={() => flip('horizontal')}>Flip horizontally</button
		>
		<button
			class="plain-button"
			title="Flip vertically (Shift D)"
			data-flip="vertical"
			onclick={() => flip('vertical')}>Flip vertically</button
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
