<script lang="ts">
	// The bench: the cut is in the middle of every row.
	import { onDestroy, onMount, untrack } from 'svelte';
	import { createQuery } from '@tanstack/svelte-query';
	import { goto } from '$app/navigation';
	import type { Catalogue, Cut } from '$lib/api/client';
	import RecipeBook from '$lib/book/RecipeBook.svelte';
	import RecipeDrop from '$lib/book/RecipeDrop.svelte';
	import { framesName } from '$lib/clips/shown';
	import UnsavedGuard from '$lib/saving/UnsavedGuard.svelte';
	import Boundary from '$lib/ui/Boundary.svelte';
	import { characterKeys } from '$lib/ui/characterKeys';
	import { onLeftFullScreen } from '$lib/ui/fullScreen';
	import { benchActions, keyHandler } from './actions';
	import BenchBar from './bar/BenchBar.svelte';
	import { Bench } from './bench.svelte';
	import SideCard from './cards/SideCard.svelte';
	import CheckRow from './checks/CheckRow.svelte';
	import { applyDropped } from './cutSteps';
	import { CLIP_SIDES } from './cutTypes';
	import { ASK_AGAIN_MS } from './subject/subject.svelte';
	import { addFilter, applyRecipe } from './filterList';
	import { offerToHold } from './offerToHold';
	import Hints from './Hints.svelte';
	import AddFilter from './lanes/AddFilter.svelte';
	import Lanes from './lanes/Lanes.svelte';
	import SavePreset from './lanes/SavePreset.svelte';
	import { kindOf } from '$lib/recipe/recipe';
	import Picture from './picture/Picture.svelte';
	import { addPreset } from './presets';
	import type { Preview } from './preview/preview.svelte';
	import RowBorder from './RowBorder.svelte';
	import Shortcuts from './Shortcuts.svelte';
	import DialRow from './transport/DialRow.svelte';
	import Transport from './transport/Transport.svelte';

	let { cut, catalogue, preview }: { cut: Cut; catalogue: Catalogue; preview: Preview } = $props();

	const bench = untrack(() => new Bench(cut, catalogue, preview));
	const { transition, view } = bench;
	let adding = $state(false);
	let listingShortcuts = $state(false);
	let choosing = $state(false);

	const actions = benchActions(bench, {
		go: (cutId) => void (cutId && goto(`/cuts/${cutId}`)),
		addFilter: () => (adding = true),
		openBook: () => (choosing = true),
		showShortcuts: () => (listingShortcuts = true)
	});
	const onkeydown = keyHandler(actions, () => characterKeys.value);

	let selected = $derived(transition.recipe.filters.find(({ id }) => id === view.selected));

	function release() {
		if (view.showsOriginal) view.hold(false);
	}
	function onkeyup(event: KeyboardEvent) {
		if (event.key.toLowerCase() === 'h') release();
	}
	function onescape(event: KeyboardEvent) {
		if (event.key === 'Escape' && view.large) view.setLarge(false);
	}
	onLeftFullScreen(() => (view.large = false));

	onMount(() => {
		window.addEventListener('keydown', onkeydown);
		return () => window.removeEventListener('keydown', onkeydown);
	});
	onDestroy(() => bench.close());

	createQuery(() => ({
		queryKey: ['variants', cut.id],
		queryFn: () => bench.variants.read(),
		gcTime: 0
	}));

	for (const side of CLIP_SIDES)
		createQuery(() => ({
			queryKey: ['subject', cut.id, side],
			queryFn: () => bench.subjects[side].ask(),
			enabled: bench.subjects[side].asks,
			refetchInterval: ASK_AGAIN_MS,
			gcTime: 0
		}));

	/** Changes when the cut's own frames change: cards and stills of the book are kept as long. */
	let framesVersion = $derived.by(() => {
		const { outgoing, incoming } = transition.cut;
		const { now } = transition.framing;
		return framesName(
			{ ...outgoing, framing: now.outgoing },
			{ ...incoming, framing: now.incoming },
			view.subjects
		);
	});
</script>

<svelte:window {onkeyup} onkeydown={onescape} onblur={release} />
<svelte:head><title>{transition.cut.edit_name}, cut {transition.cut.number}</title></svelte:head>
<UnsavedGuard saver={transition.saver} what="This cut" />

{#if !view.large}<BenchBar {bench} {actions} />{/if}
<main class="bench" class:large={view.large}>
	{#if view.large}<h1 class="sr-only">{transition.cut.edit_name}, large picture</h1>{/if}
	<div
		class="picture-row"
		style:height={view.large || !view.pictureShare.value
			? undefined
			: `${view.pictureShare.value * 100}%`}
	>
		{#if !view.large}
			<Boundary name="The outgoing clip"><SideCard {bench} side="outgoing" /></Boundary>
		{/if}
		<Boundary name="The picture"><Picture {bench} /></Boundary>
		{#if !view.large}
			<Boundary name="The incoming clip"><SideCard {bench} side="incoming" /></Boundary>
		{/if}
	</div>
	{#if !view.large}<RowBorder share={view.pictureShare} />{/if}
	<Transport {bench} {actions} />
	{#if !view.large}
		<DialRow {bench} {actions} />
		<Hints untouched={transition.cut.undo_label === null && transition.saver.isSaved} />
		<Boundary name="The lanes"><Lanes {bench} {actions} /></Boundary>
		<Boundary name="The checks"><CheckRow {bench} {actions} /></Boundary>
	{/if}
</main>

<Boundary name="The recipe book">
	<RecipeBook
		bind:open={choosing}
		cutId={transition.cut.id}
		rate={transition.cut.rate}
		version={framesVersion}
		current={transition.recipe}
		onapply={(entry) => {
			applyRecipe(bench, entry);
			void offerToHold(bench, entry.name);
		}}
	/>
</Boundary>
{#snippet savingPreset()}
	{#if selected}
		{@const kind = kindOf(catalogue, selected)}
		<SavePreset {bench} filter={selected} title={selected.name ?? kind?.title ?? selected.kind} />
	{/if}
{/snippet}
<RecipeDrop otherwise={transition.cut.id} onrecipe={(recipe) => applyDropped(transition, recipe)} />
<AddFilter
	bind:open={adding}
	{catalogue}
	rate={transition.cut.rate}
	onadd={(kind) => addFilter(bench, kind)}
	onpreset={(preset) => addPreset(bench, preset)}
	saving={selected && savingPreset}
/>
<Shortcuts bind:open={listingShortcuts} {actions} />

<style>
	.bench {
		display: flex;
		flex: 1;
		flex-direction: column;
		min-height: 0;
		overflow: hidden auto;
		container-type: size;
	}
	.picture-row {
		display: grid;
		flex: none;
		grid-template-rows: minmax(0, 1fr);
		grid-template-columns: auto minmax(0, 1fr) auto;
		height: clamp(290px, 43%, 760px);
		background: var(--color-surround);
	}
	.large .picture-row {
		flex: 1;
		height: auto;
		min-height: 0;
	}
	/* Narrow or low windows, and 200 % zoom: the rows keep their height and the page scrolls. */
	@container (max-width: 900px) {
		.picture-row {
			grid-template-rows: auto auto;
			grid-template-columns: 1fr 1fr;
			height: auto;
		}
	}
</style>
