<script lang="ts">
	// The recipe book: search, filter by feel, see every recipe on this cut, apply one.
	import type { BookRecipe } from '$lib/api/client';
	import Dialog from '$lib/ui/Dialog.svelte';
	import { capitalised } from '$lib/ui/numbers';
	import { FEELS, RecipeBook } from './book.svelte';
	import RecipeCard from './RecipeCard.svelte';
	import { Stills } from './stills.svelte';

	type Props = {
		open: boolean;
		cutId: string;
		/** The edit's frame rate, for the suggested windows. */
		rate: string;
		/** Changes when the cut's frames change. */
		version: string;
		/** The recipe that can be saved, if any. */
		current?: { name: string };
		title?: string;
		onapply: (entry: BookRecipe) => void;
	};
	let {
		open = $bindable(),
		cutId,
		rate,
		version,
		current,
		title = 'Recipe book',
		onapply
	}: Props = $props();

	const READ_AHEAD_MS = 1200;
	const book = new RecipeBook();
	const stills = new Stills();
	let picker: HTMLInputElement;

	// The list is loaded ahead of time, when the page is idle.
	$effect(() => {
		if (open && !book.whole) void book.load(rate);
		const later = setTimeout(() => book.whole || void book.load(rate), READ_AHEAD_MS);
		return () => clearTimeout(later);
	});

	// Every card first shows its recipe on the frame at the cut.
	$effect(() => {
		if (open && book.whole) void stills.load(cutId, version, book.whole);
	});

	function apply(entry: BookRecipe) {
		open = false;
		onapply(entry);
	}
</script>

{#snippet cards(entries: BookRecipe[], own: boolean)}
	<div class="cards">
		{#each entries as entry (entry.key)}
			<RecipeCard
				{cutId}
				{version}
				{entry}
				still={stills.of[entry.key]}
				frames={book.whole?.card_frames ?? 1}
				onapply={() => apply(entry)}
				onrename={own ? (name) => book.rename(entry, name) : undefined}
				onremove={own ? () => book.remove(entry) : undefined}
			/>
		{/each}
	</div>
{/snippet}

<Dialog bind:open {title} size="xl" class="border border-line bg-page! text-ink!" bodyClass="p-0!">
	<div class="tools">
		<!-- svelte-ignore a11y_autofocus -->
		<input
			class="text-field"
			placeholder="Search recipes"
			aria-label="Search recipes"
			autofocus
			bind:value={book.sought}
		/>
		<div class="feels" role="group" aria-label="Feel">
			{#each FEELS as feel (feel)}
				<button
					class="plain-button"
					class:pressed={book.feel === feel}
					aria-pressed={book.feel === feel}
					onclick={() => (book.feel = book.feel === feel ? '' : feel)}>{capitalised(feel)}</button
				>
			{/each}
		</div>
		<span class="space"></span>
		{#if current}
			<button
				class="plain-button"
				title="Save this transition in the recipe book, under its name"
				onclick={() => book.save(current)}>Save as recipe</button
			>
		{/if}
		<button class="plain-button" onclick={() => picker.click()}>Import…</button>
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
	<div class="shelves">
		{#if !book.whole}
			<p class="quiet">Loading recipes…</p>
		{:else}
			{#if book.found.own.length}
				<h3>Saved</h3>
				{@render cards(book.found.own, true)}
			{/if}
			{#if book.found.builtIn.length}
				<h3>Built in</h3>
				{@render cards(book.found.builtIn, false)}
			{/if}
			{#if !book.found.own.length && !book.found.builtIn.length}
				<p class="quiet">
					No matching recipes
					<button class="plain-button" onclick={() => book.clear()}>Clear search and filters</button
					>
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
