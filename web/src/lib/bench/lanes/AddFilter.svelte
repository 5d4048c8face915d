<script lang="ts">
	// The dialog that adds a filter: choose by pointer, arrow keys, or part of a name.
	import type { Catalogue, FilterKind } from '$lib/api/client';
	import TextField from '$lib/ui/TextField.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';
	import { capitalised } from '$lib/ui/numbers';

	type Props = { open: boolean; catalogue: Catalogue; onadd: (kind: FilterKind) => void };
	let { open = $bindable(), catalogue, onadd }: Props = $props();

	let sought = $state('');
	let found = $derived(
		catalogue.filters.filter((each) =>
			`${each.title} ${each.family} ${each.purpose}`.toLowerCase().includes(sought.toLowerCase())
		)
	);

	function add(kind: FilterKind) {
		open = false;
		sought = '';
		onadd(kind);
	}

	function onkeydown(event: KeyboardEvent) {
		const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
		if (!by) return;
		event.preventDefault();
		const items = [...document.querySelectorAll<HTMLElement>('[data-add-filter]')];
		const next = items[items.indexOf(document.activeElement as HTMLElement) + by];
		(next ?? document.querySelector<HTMLElement>('[aria-label="Search filters"]'))?.focus();
	}
</script>

<Dialog bind:open title="Add filter" size="lg">
	<!-- svelte-ignore a11y_no_static_element_interactions -->
	<div class="flex flex-col" {onkeydown}>
		<TextField
			label="Search filters"
			placeholder="Search filters"
			class="mb-1 w-full"
			autofocus
			bind:value={sought}
			onenter={() => found[0] && add(found[0])}
		/>
		{#each catalogue.families as family (family)}
			{@const members = found.filter((each) => each.family === family)}
			{#if members.length}
				<h3 class="small mt-1.5 px-2 text-quiet">{capitalised(family)}</h3>
				<div class="grid grid-cols-3 gap-x-1">
					{#each members as kind (kind.kind)}
						<button class="entry" data-add-filter={kind.kind} onclick={() => add(kind)}>
							<span class="font-semibold">{kind.title}</span>
							<span class="text-quiet">{kind.purpose}</span>
						</button>
					{/each}
				</div>
			{/if}
		{/each}
		{#if !found.length}
			<p class="p-2 text-quiet">No matching filters</p>
		{/if}
	</div>
</Dialog>

<style>
	.entry {
		display: flex;
		flex-direction: column;
		padding: 3px 10px;
		border: 1px solid transparent;
		border-radius: 6px;
		text-align: left;
	}
	.entry:hover,
	.entry:focus-visible {
		border-color: var(--color-line);
		background: var(--color-surround);
	}
</style>
