<script lang="ts">
	// The bench: the cut is in the middle of every row.
	import { onDestroy, untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import type { BookRecipe, Catalogue, Cut, FilterKind } from '$lib/api/client';
	import AddFilter from './AddFilter.svelte';
	import { axisOf } from './axis';
	import { Bench } from './bench.svelte';
	import BenchBar from './BenchBar.svelte';
	import { clipboard, copiedName } from './clipboard.svelte';
	import { copyTransition, paste, withKnownFollows } from './copying';
	import Dials from './Dials.svelte';
	import RecipeBook from '$lib/book/RecipeBook.svelte';
	import { counted } from '$lib/ui/numbers';
	import Dialog from '$lib/ui/Dialog.svelte';
	import { isTyping, KEYS } from './keys';
	import { LanesInSight } from './lanesInSight.svelte';
	import MixLane from './MixLane.svelte';
	import FilterLane from './FilterLane.svelte';
	import Picture from './Picture.svelte';
	import { Player } from './player.svelte';
	import type { Preview } from './preview.svelte';
	import { kindOf, nameOf, newFilter, type Filter, type Recipe } from './recipe';
	import SideCard from './SideCard.svelte';
	import { retimeOf } from './speed';
	import SpeedLane from './SpeedLane.svelte';
	import StatusRow from './StatusRow.svelte';
	import Strip from './Strip.svelte';
	import Transport from './Transport.svelte';

	let { cut, catalogue, preview }: { cut: Cut; catalogue: Catalogue; preview: Preview } = $props();

	const SIDE_PX = 224;
	const SIDES = ['outgoing', 'incoming'] as const;
	const bench = untrack(() => new Bench(cut, catalogue, preview));
	const player = new Player(bench);
	const inSight = new LanesInSight();
	let adding = $state(false);
	let listingShortcuts = $state(false);
	let choosing = $state(false);
	let rowWidth = $state(0);

	let axis = $derived(axisOf(bench.before, bench.after, Math.max(100, rowWidth - 2 * SIDE_PX)));

	onDestroy(() => {
		player.stop();
		bench.close();
	});

	async function go(cutId: string | null) {
		if (!cutId) return;
		await bench.flush();
		await goto(`/cuts/${cutId}`);
	}

	function add(kind: FilterKind) {
		const filter = newFilter(
			kind,
			bench.recipe.filters.map((each) => each.id)
		);
		bench.change(`Add ${kind.title.toLowerCase()}`, (recipe) => ({
			...recipe,
			filters: [...recipe.filters, filter]
		}));
		bench.select(filter.id);
	}

	/** Apply a recipe with its suggested window, limited by the clips. */
	function apply(entry: BookRecipe) {
		bench.setWindow(entry.before, entry.after);
		bench.change(`Apply recipe ${entry.name}`, () => ({
			...(entry.recipe as Recipe),
			name: entry.name
		}));
		bench.select(bench.recipe.filters[0]?.id ?? 'mix');
	}

	function without(filters: Filter[], filter: Filter): Filter[] {
		const left = filters.filter((each) => each.id !== filter.id);
		const here = left.map((each) => each.id);
		return left.map((each) => withKnownFollows(catalogue, each, here));
	}

	function remove(filter: Filter) {
		const place = bench.recipe.filters.findIndex((each) => each.id === filter.id);
		bench.change(`Remove ${nameOf(catalogue, filter)}`, (recipe) => ({
			...recipe,
			filters: without(recipe.filters, filter)
		}));
		const next = bench.recipe.filters[Math.min(place, bench.recipe.filters.length - 1)];
		bench.select(next?.id ?? 'mix');
	}

	function move(filter: Filter, by: number) {
		const from = bench.recipe.filters.findIndex((each) => each.id === filter.id);
		const to = from + by;
		if (to < 0 || to >= bench.recipe.filters.length) return;
		bench.change(`Move ${nameOf(catalogue, filter)}`, (recipe) => {
			const filters = recipe.filters.filter((each) => each.id !== filter.id);
			filters.splice(to, 0, filter);
			return { ...recipe, filters };
		});
	}

	function onkeydown(event: KeyboardEvent) {
		if (isTyping(event)) return;
		const entry = KEYS.find(({ matches }) => matches(event));
		if (!entry) return;
		event.preventDefault();
		const actions = {
			bench,
			player,
			go,
			addFilter: () => (adding = true),
			removeFilter: () => {
				const filter = bench.recipe.filters.find((each) => each.id === bench.selected);
				if (filter) remove(filter);
			},
			showShortcuts: () => (listingShortcuts = true),
			openBook: () => (choosing = true)
		};
		entry.run(actions, event);
	}

	function onkeyup(event: KeyboardEvent) {
		if (event.key.toLowerCase() === 'h' && bench.held) bench.hold(false);
	}
</script>

<svelte:window {onkeydown} {onkeyup} onbeforeunload={() => void bench.flush()} />
<svelte:head><title>{bench.cut.edit_name}, cut {bench.cut.number}</title></svelte:head>

<BenchBar {bench} {go} onbook={() => (choosing = true)} />
<main class="bench" style:--side="{SIDE_PX}px">
	<div class="picture-row">
		<SideCard {bench} side="outgoing" />
		<Picture {bench} />
		<SideCard {bench} side="incoming" />
	</div>
	<Transport {bench} {player} />
	<Dials {bench} />
	<div class="rows" bind:clientWidth={rowWidth}>
		<div class="head">
			<div class="strip-row">
				<div class="label quiet small">
					<span>Frames</span>
					<span class="second">Change per frame</span>
				</div>
				<Strip {bench} {axis} />
				<div class="hidden-lanes">
					{#if inSight.above}
						<button class="bare-button small" onclick={() => inSight.scroll(-1)}
							>↑ {counted(inSight.above, 'lane')} above</button
						>
					{/if}
					{#if inSight.below}
						<button class="bare-button small" onclick={() => inSight.scroll(1)}
							>↓ {counted(inSight.below, 'lane')} below</button
						>
					{:else if inSight.endHidden}
						<button class="bare-button small" title="Add filter (N)" onclick={() => (adding = true)}
							>Add filter</button
						>
					{/if}
				</div>
			</div>
		</div>
		<div class="lanes" use:inSight.watch>
			<MixLane {bench} {axis} />
			{#each SIDES as side (side)}
				{#if retimeOf(bench.recipe, side).speed !== 1}<SpeedLane {bench} {axis} {side} />{/if}
			{/each}
			{#each bench.recipe.filters as filter, n (filter.id)}
				{@const kind = kindOf(catalogue, filter)}
				{#if kind}
					<FilterLane
						{bench}
						{axis}
						{filter}
						{kind}
						place={n + 1}
						onremove={() => remove(filter)}
						onmove={(by) => move(filter, by)}
					/>
				{/if}
			{:else}
				<p class="empty">No filters yet. Add a filter, or choose a recipe from the recipe book.</p>
			{/each}
			<div class="add">
				<button class="plain-button" title="Add filter (N)" onclick={() => (adding = true)}
					>Add filter</button
				>
				{#if clipboard.copied && clipboard.copied.kind !== 'curve'}
					<button class="plain-button" title="Paste (Ctrl V)" onclick={() => paste(bench)}
						>Paste {copiedName(clipboard.copied)}</button
					>
				{/if}
				<button
					class="plain-button"
					title="Copy transition (Ctrl Shift C)"
					onclick={() => copyTransition(bench)}>Copy transition</button
				>
			</div>
		</div>
		<div class="seam" aria-hidden="true"></div>
	</div>
	<StatusRow {bench} onshortcuts={() => (listingShortcuts = true)} />
</main>

<RecipeBook
	bind:open={choosing}
	cutId={bench.cut.id}
	rate={bench.cut.rate}
	version={[
		bench.cut.version,
		bench.cut.outgoing.out_frame,
		bench.cut.incoming.in_frame,
		JSON.stringify(bench.framing)
	].join()}
	current={bench.recipe}
	onapply={apply}
/>
<AddFilter bind:open={adding} {catalogue} onadd={add} />
<Dialog bind:open={listingShortcuts} title="Shortcuts" size="sm">
	<table class="w-full text-[13px]">
		<tbody>
			{#each KEYS as { shown, does } (shown)}
				<tr
					><th class="figures py-1 pr-4 text-left font-normal whitespace-nowrap">{shown}</th><td
						>{does}</td
					></tr
				>
			{/each}
			<tr
				><th class="figures py-1 pr-4 text-left font-normal">↑ ↓ in a field</th><td
					>Step the value; ×10 with Shift, ×0.1 with Alt. Double-click resets it</td
				></tr
			>
		</tbody>
	</table>
</Dialog>

<style>
	.bench {
		display: flex;
		flex: 1;
		flex-direction: column;
		min-height: 0;
	}
	.picture-row {
		display: grid;
		grid-template-rows: minmax(0, 1fr);
		grid-template-columns: auto 1fr auto;
		height: clamp(290px, 41vh, 760px);
		flex: none;
		overflow: hidden;
		background: var(--color-surround);
	}
	.rows {
		position: relative;
		display: flex;
		flex: 1;
		flex-direction: column;
		min-height: 0;
		background: var(--color-page);
	}
	.head {
		flex: none;
		border-bottom: 1px solid var(--color-line);
	}
	.strip-row {
		display: grid;
		grid-template-columns: var(--side) 1fr var(--side);
		padding-top: 4px;
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
	.quiet {
		color: var(--color-quiet);
	}
	.empty {
		padding: 14px 28px;
		color: var(--color-quiet);
		text-align: center;
	}
	.add {
		display: flex;
		gap: 8px;
		padding: 8px 28px 12px;
	}
</style>
