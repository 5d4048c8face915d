<script lang="ts">
	// The frames of the window, and under them a lane for the mix, the speed ramps and every filter.
	import type { Actions } from '$lib/bench/actions';
	import type { Bench } from '$lib/bench/bench.svelte';
	import { clipboard, copiedName } from '$lib/bench/clipboard.svelte';
	import { axisOf } from '$lib/bench/strip/axis';
	import ChangeBars from '$lib/bench/strip/ChangeBars.svelte';
	import Strip from '$lib/bench/strip/Strip.svelte';
	import { USUAL_ACCENT } from '$lib/recipe/accent';
	import { kindOf, USUAL_LAYER } from '$lib/recipe/recipe';
	import Button from '$lib/ui/Button.svelte';
	import { counted } from '$lib/ui/numbers';
	import AccentLane from './AccentLane.svelte';
	import FilterLane from './FilterLane.svelte';
	import { LanesInSight } from './lanesInSight.svelte';
	import MixLane from './MixLane.svelte';
	import { retimeOf, setRetime } from '$lib/bench/speed/speed';
	import SlipLane from './SlipLane.svelte';
	import SpeedLane from './SpeedLane.svelte';
	import SubjectLane from './SubjectLane.svelte';

	let { bench, actions }: { bench: Bench; actions: Actions } = $props();

	const SIDE_PX = 224;
	/** Below this width the values of a lane stand under its curve. */
	const NARROW_PX = 900;
	const SIDES = ['outgoing', 'incoming'] as const;
	const inSight = new LanesInSight();
	let rowWidth = $state(1280);
	let narrow = $derived(rowWidth < NARROW_PX);
	let side = $derived(narrow ? 0 : SIDE_PX);
	let { transition } = $derived(bench);
	let axis = $derived(
		axisOf(transition.before, transition.after, Math.max(100, rowWidth - 2 * side))
	);
	let filters = $derived(transition.recipe.filters);

	function addSubject() {
		transition.change('Add subject', (recipe) => ({ ...recipe, subject_layer: USUAL_LAYER }));
		bench.view.select('subject');
	}

	function addSlip(one: (typeof SIDES)[number]) {
		const [from, to] = one === 'outgoing' ? [-0.6, -0.2] : [0.2, 0.6];
		setRetime(transition, one, { slips: [{ from, to, offset: -6 }] }, 'Add slip');
		bench.view.select(`slips-${one}`);
	}

	function addAccent() {
		transition.change('Add accent', (recipe) => ({ ...recipe, accent: USUAL_ACCENT }));
		bench.view.select('accent');
	}
</script>

<div class="rows" class:narrow style:--side="{SIDE_PX}px" bind:clientWidth={rowWidth}>
	<div class="head">
		<div class="label text-quiet small">
			<span>Frames</span>
			<span>Change per frame</span>
		</div>
		<div class="strips">
			<Strip {bench} {axis} />
			<ChangeBars {axis} changes={bench.preview.changes} shown={bench.view.shown} />
		</div>
		<div class="hidden-lanes">
			{#if inSight.above}
				<Button kind="bare" low onclick={() => inSight.scroll(-1)}
					>↑ {counted(inSight.above, 'lane')} above</Button
				>
			{/if}
			{#if inSight.below}
				<Button kind="bare" low onclick={() => inSight.scroll(1)}
					>↓ {counted(inSight.below, 'lane')} below</Button
				>
			{:else if inSight.endHidden}
				<Button kind="bare" low tip={actions.addFilter.tip} onclick={() => actions.addFilter.run()}
					>Add filter</Button
				>
			{/if}
		</div>
	</div>
	<div class="lanes" role="group" aria-label="Lanes" tabindex="-1" {@attach inSight.watch}>
		<MixLane {bench} {axis} />
		{#if transition.recipe.accent}<AccentLane {bench} {axis} />{/if}
		{#each SIDES as one (one)}
			{#if retimeOf(transition.recipe, one).speed !== 1}<SpeedLane {bench} {axis} side={one} />{/if}
		{/each}
		{#if transition.recipe.subject_layer}<SubjectLane {bench} {axis} />{/if}
		{#each SIDES as one (one)}
			{#if retimeOf(transition.recipe, one).slips.length}<SlipLane {bench} {axis} side={one} />{/if}
		{/each}
		{#each filters as filter, n (filter.id)}
			{@const kind = kindOf(bench.catalogue, filter)}
			{#if kind}
				<FilterLane {bench} {axis} {actions} {filter} {kind} place={n + 1} />
			{/if}
		{:else}
			<p class="empty">No filters yet. Add a filter, or choose a recipe from the recipe book.</p>
		{/each}
		<div class="add">
			<Button data-add-filter tip={actions.addFilter.tip} onclick={() => actions.addFilter.run()}
				>Add filter</Button
			>
			{#if !transition.recipe.accent}
				<Button tip="Add a sound to the cut" onclick={addAccent}>Add accent</Button>
			{/if}
			{#if !transition.recipe.subject_layer}
				<Button tip="Show the subject of a clip over the other one" onclick={addSubject}
					>Add subject</Button
				>
			{/if}
			{#each SIDES as one (one)}
				{@const what = bench.subjects[one].strokes.length ? 'background' : 'picture'}
				{#if !retimeOf(transition.recipe, one).slips.length}
					<Button tip="Take pieces of its {what} from another time" onclick={() => addSlip(one)}
						>Slip {one} {what}</Button
					>
				{/if}
			{/each}
			{#if clipboard.copied && clipboard.copied.kind !== 'curve'}
				<Button tip={actions.paste.tip} onclick={() => actions.paste.run()}
					>Paste {copiedName(clipboard.copied)}</Button
				>
			{/if}
			<Button tip={actions.copyTransition.tip} onclick={() => actions.copyTransition.run()}
				>Copy transition</Button
			>
		</div>
	</div>
	<div class="seam" aria-hidden="true"></div>
</div>

<style>
	.rows {
		position: relative;
		display: flex;
		flex: 1;
		flex-direction: column;
		min-height: 120px;
		background: var(--color-page);
	}
	.head {
		display: grid;
		flex: none;
		grid-template-columns: var(--side) 1fr var(--side);
		padding-top: 4px;
		border-bottom: 1px solid var(--color-line);
	}
	.label {
		display: flex;
		flex-direction: column;
		justify-content: space-between;
		padding: 12px 10px 5px 28px;
	}
	.hidden-lanes {
		display: flex;
		flex-direction: column;
		align-items: flex-start;
		justify-content: flex-end;
		padding: 0 6px 2px;
	}
	.lanes {
		flex: 1;
		min-height: 0;
		overflow-x: hidden;
		overflow-y: auto;
		/* The cut stays in the middle whether or not the lanes scroll. */
		scrollbar-width: none;
	}
	.seam {
		position: absolute;
		top: 0;
		bottom: 0;
		left: calc(50% - 1px);
		width: 2px;
		background: var(--color-seam);
		pointer-events: none;
	}
	.empty {
		padding: 14px 28px;
		color: var(--color-quiet);
		text-align: center;
	}
	.add {
		display: flex;
		flex-wrap: wrap;
		gap: 8px;
		padding: 8px 28px 12px;
	}
	.narrow {
		flex: none;
	}
	.narrow .head {
		grid-template-columns: 1fr;
	}
	.narrow .label {
		display: none;
	}
	.narrow .lanes {
		overflow: visible;
	}
	@container (max-height: 560px) {
		.rows {
			flex: none;
		}
		.lanes {
			overflow: visible;
		}
	}
</style>
