<script lang="ts">
	// The dialog that adds a filter: choose by pointer, arrow keys, or part of a name.
	import type { Snippet } from 'svelte';
	import { createQuery, useQueryClient } from '@tanstack/svelte-query';
	import type { Catalogue, FilterKind, Preset } from '$lib/api/client';
	import { deletePreset, presetKind, PRESETS, readPresets } from '$lib/bench/presets';
	import Button from '$lib/ui/Button.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';
	import { capitalised } from '$lib/ui/numbers';

	type Props = {
		open: boolean;
		catalogue: Catalogue;
		rate: string;
		onadd: (kind: FilterKind) => void;
		onpreset: (preset: Preset) => void;
		/** What saves the selected filter as a preset. */
		saving?: Snippet;
	};
	let { open = $bindable(), catalogue, rate, onadd, onpreset, saving }: Props = $props();

	const queries = useQueryClient();
	const presets = createQuery(() => ({
		queryKey: [PRESETS, rate],
		queryFn: () => readPresets(rate),
		enabled: open
	}));
	let foundPresets = $derived(
		(presets.data ?? []).filter((each) =>
			`${each.name} ${presetKind(catalogue, each)} preset`
				.toLowerCase()
				.includes(sought.toLowerCase())
		)
	);

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

	function addSaved(preset: Preset) {
		open = false;
		sought = '';
		onpreset(preset);
	}

	async function remove(preset: Preset) {
		await deletePreset(preset);
		await queries.invalidateQueries({ queryKey: [PRESETS] });
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
			onenter={() => {
				const [preset] = sought ? foundPresets : [];
				if (preset?.filter) addSaved(preset);
				else if (found[0]) add(found[0]);
			}}
		/>
		{#if foundPresets.length || saving}
			<div class="mt-1.5 flex items-center justify-between gap-2 px-2">
				<h3 class="small text-quiet">Presets</h3>
				{@render saving?.()}
			</div>
			<div class="grid grid-cols-3 gap-x-1">
				{#each foundPresets as preset (preset.id)}
					<div class="preset">
						<button
							class="entry"
							data-add-filter={preset.name}
							disabled={!preset.filter}
							onclick={() => addSaved(preset)}
						>
							<span class="truncate font-semibold">{preset.name}</span>
							<span class="text-quiet">{presetKind(catalogue, preset)}</span>
						</button>
						<Button
							kind="bare"
							aria-label="Delete the preset {preset.name}"
							tip="Delete; transitions that use it stay as they are"
							onclick={() => remove(preset)}>✕</Button
						>
					</div>
				{/each}
			</div>
		{/if}
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
		{#if !found.length && !foundPresets.length}
			<p class="p-2 text-quiet">No matching filters</p>
		{/if}
	</div>
</Dialog>

<style>
	.preset {
		display: flex;
		align-items: center;
	}
	.preset .entry {
		flex: 1;
		min-width: 0;
	}
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
