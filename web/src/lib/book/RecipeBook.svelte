<script lang="ts">
	// The recipe book: search, filter by feel, see every recipe on this cut, apply one.
	import { createQuery, useQueryClient } from '@tanstack/svelte-query';
	import Button from '$lib/ui/Button.svelte';
	import { prefersReducedMotion } from 'svelte/motion';
	import { api, request, type BookRecipe, type Fit } from '$lib/api/client';
	import { Remembered } from '$lib/ui/remembered.svelte';
	import Switch from '$lib/ui/Switch.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';
	import { capitalised } from '$lib/ui/numbers';
	import { onDestroy, untrack } from 'svelte';
	import { CardSound } from '$lib/sound/cardSound';
	import { CutFit } from './fit.svelte';
	import { families, RecipeBook, shelves } from './recipes.svelte';
	import RecipeCard from './RecipeCard.svelte';
	import { Stills } from './stills.svelte';

	type Props = {
		open: boolean;
		cutId: string;
		/** The edit's frame rate, for the suggested windows. */
		rate: string;
		/** Changes when the cut's frames change. */
		version: string;
		/** Whether recipes can be sorted by how they suit this cut. */
		fits?: boolean;
		/** The recipe that can be saved, if any. */
		current?: { name: string };
		title?: string;
		/** The feel that is chosen at first. */
		feel?: string;
		onapply: (entry: BookRecipe) => void;
	};
	let {
		open = $bindable(),
		cutId,
		rate,
		version,
		fits = true,
		current,
		title = 'Recipe book',
		feel: firstFeel = '',
		onapply
	}: Props = $props();

	const READ_AHEAD_MS = 1200;
	const playing = new Remembered<boolean>('idle-shimmer-cards-play', true);
	let plays = $derived(playing.value && !prefersReducedMotion.current);
	const queries = useQueryClient();
	// Read ahead of time, once the page is idle.
	let isIdle = $state(false);
	const read = createQuery(() => ({
		queryKey: ['recipes', rate],
		queryFn: () => request(api.GET('/api/recipes', { params: { query: { rate } } })),
		enabled: open || isIdle,
		staleTime: Infinity
	}));
	const book = new RecipeBook(
		() => read.data ?? null,
		async () => {
			await queries.invalidateQueries({ queryKey: ['recipes'] });
			// A recipe that is saved now was not measured.
			await queries.invalidateQueries({ queryKey: ['fit'] });
		}
	);
	untrack(() => (book.feel = firstFeel));
	const stills = new Stills();
	const sound = new CardSound();
	const soundOn = new Remembered<boolean>('idle-shimmer-sound-on', true);
	const fit: CutFit = new CutFit(() => measured.data ?? null);
	let byFit: boolean = $derived(fits && fit.on);
	const measured = createQuery(() => ({
		queryKey: ['fit', cutId, version],
		queryFn: () => {
			const params = { path: { cut_id: cutId } };
			return request(api.GET('/api/cuts/{cut_id}/fit', { params }));
		},
		enabled: open && byFit,
		staleTime: Infinity
	}));
	let picker: HTMLInputElement;

	$effect(() => {
		const later = setTimeout(() => (isIdle = true), READ_AHEAD_MS);
		return () => clearTimeout(later);
	});

	// Every card first shows its recipe on the frame at the cut, those at the top first.
	$effect(() => {
		if (!open || !book.whole || (byFit && !fit.found && !measured.error)) return;
		const { own, built_in } = book.whole;
		const shown = [...own.map((each) => [each]), ...families(built_in)];
		const cards = byFit ? fit.sorted(shown) : shown;
		const first = cards.map((each) => (byFit ? fit.best(each) : each[0])) as BookRecipe[];
		const keys = [...first, ...cards.flat()].filter((each) => !each.problem).map(({ key }) => key);
		void stills.load(cutId, version, [...new Set(keys)], book.whole.most_stills);
	});

	$effect(() => {
		if (!open) sound.stop();
	});
	onDestroy(() => sound.close());

	/** The chosen direction of each family, by its key; or that it is set for this cut. */
	let chosen = $state.raw<Record<string, string>>({});
	const FITTED = 'fitted';

	function familyOf(directions: BookRecipe[]): string {
		return directions[0]?.family ?? directions[0]?.key ?? '';
	}

	/** The recipe as it was saved, in the chosen direction; set for this cut only where that was asked for. */
	function chosenOf(directions: BookRecipe[]): BookRecipe {
		const key = chosen[familyOf(directions)];
		if (byFit && key === FITTED) return fit.fitted(directions);
		return directions.find((each) => each.key === key) ?? (directions[0] as BookRecipe);
	}

	function choose(directions: BookRecipe[], key: string) {
		chosen = { ...chosen, [familyOf(directions)]: key };
	}

	/** What was measured of a clip, in words. */
	function said({ camera, brightness }: Fit['outgoing']): string {
		return `${camera} · brightness ${percent(brightness)}`;
	}

	function percent(share: number): string {
		return `${Math.round(share * 100)} %`;
	}

	function apply(entry: BookRecipe) {
		open = false;
		onapply(entry);
	}
</script>

{#snippet cards(recipes: BookRecipe[][], own: boolean)}
	<div class="cards">
		{#each byFit ? fit.sorted(recipes) : recipes as directions (directions[0]?.key)}
			{@const entry = chosenOf(directions)}
			{@const changes = byFit ? fit.changes(directions) : ''}
			<RecipeCard
				{cutId}
				{version}
				{entry}
				{directions}
				reasons={byFit && own ? fit.reasons(entry) : []}
				{changes}
				isFitted={byFit && chosen[familyOf(directions)] === FITTED}
				onfit={(on) => choose(directions, on ? FITTED : '')}
				ondirection={(key) => choose(directions, key)}
				still={stills.of[entry.key]}
				frames={book.whole?.card_frames ?? 1}
				{plays}
				onapply={() => apply(entry)}
				onlook={(looked) => (looked && soundOn.value ? sound.start(entry, rate) : sound.stop())}
				onrename={own ? (name) => book.rename(entry, name) : undefined}
				onremove={own ? () => book.remove(entry) : undefined}
			/>
		{/each}
	</div>
{/snippet}

<Dialog bind:open {title} size="xl" class="bg-page" classes={{ body: 'p-0 md:p-0' }}>
	<div class="tools">
		<TextField
			label="Search recipes"
			placeholder="Search recipes"
			class="w-56"
			autofocus
			bind:value={book.sought}
		/>
		<div class="feels" role="group" aria-label="Feel">
			{#each book.whole?.feels ?? [] as feel (feel)}
				<Button
					pressed={book.feel === feel}
					onclick={() => (book.feel = book.feel === feel ? '' : feel)}>{capitalised(feel)}</Button
				>
			{/each}
		</div>
		{#if fits}
			<Switch
				label="Sort by fit"
				tip="Sort recipes by how they suit these two clips. They stay as they were saved"
				on={fit.on}
				onchange={(on) => (fit.on = on)}>Sort by fit</Switch
			>
		{/if}
		<Switch label="Play cards" on={plays} onchange={(on) => (playing.value = on)}>Play cards</Switch
		>
		<span class="space"></span>
		{#if current}
			<Button
				tip="Save this transition in the recipe book, under its name"
				onclick={() => book.save(current)}>Save as recipe</Button
			>
		{/if}
		<Button onclick={() => picker.click()}>Import…</Button>
		<input
			bind:this={picker}
			type="file"
			accept=".json,application/json"
			multiple
			hidden
			aria-label="Import recipe files"
			onchange={(event) => {
				void book.importFiles(event.currentTarget.files ?? []);
				event.currentTarget.value = '';
			}}
		/>
	</div>
	{#if byFit}
		<p class="measured" aria-live="polite">
			{#if fit.found}
				<span><span class="side text-outgoing">Outgoing</span> {said(fit.found.outgoing)}</span>
				<span><span class="side text-incoming">Incoming</span> {said(fit.found.incoming)}</span>
				<span class="text-quiet">Frames at the cut {percent(fit.found.likeness)} alike</span>
			{:else if measured.error}
				<span class="text-failed"
					>{measured.error.message} Recipes are in the order of the book.</span
				>
			{:else}
				<span class="text-quiet">Measuring the frames around the cut…</span>
			{/if}
		</p>
	{/if}
	<div class="shelves">
		{#if read.error}
			<p class="quiet text-failed">{read.error.message}</p>
		{:else if !book.whole}
			<p class="quiet">Loading recipes…</p>
		{:else}
			{#if book.found.own.length}
				<h3>Saved</h3>
				{@render cards(
					book.found.own.map((each) => [each]),
					true
				)}
			{/if}
			{#if byFit && book.found.builtIn.length}
				{#each fit.groups(book.found.builtIn) as { reason, recipes } (reason)}
					<h3>{reason}</h3>
					{@render cards(recipes, false)}
				{/each}
			{:else}
				{#each shelves(book.found.builtIn) as { title, recipes } (title)}
					<h3>{title}</h3>
					{@render cards(recipes, false)}
				{/each}
			{/if}
			{#if !book.found.own.length && !book.found.builtIn.length}
				<p class="quiet">
					No matching recipes
					<Button onclick={() => book.clear()}>Clear search and filters</Button>
				</p>
			{/if}
		{/if}
	</div>
</Dialog>

<style>
	.tools {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 8px;
		padding: 10px 14px;
		border-bottom: 1px solid var(--color-line);
	}
	.feels {
		display: flex;
		gap: 4px;
	}
	.space {
		flex: 1;
	}
	.measured {
		margin: 0;
		display: flex;
		flex-wrap: wrap;
		gap: 4px 18px;
		padding: 8px 14px 0;
		font-size: 12px;
	}
	.side {
		font-weight: 600;
	}
	.shelves {
		height: 60vh;
		padding: 4px 14px 14px;
		overflow-y: auto;
	}
	h3 {
		margin: 10px 0 6px;
		font-weight: 600;
	}
	.cards {
		display: grid;
		grid-template-columns: repeat(auto-fill, minmax(200px, 1fr));
		gap: 10px;
	}
	.quiet {
		padding: 14px 0;
		color: var(--color-quiet);
	}
</style>
