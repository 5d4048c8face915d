<script lang="ts">
	// The bar of the bench: edit and cut, undo and redo, save state, recipe, render.
	import AccountMenu from '$lib/shell/AccountMenu.svelte';
	import ActivityMenu from '$lib/shell/ActivityMenu.svelte';
	import type { Actions } from '$lib/bench/actions';
	import { api, request } from '$lib/api/client';
	import type { Bench } from '$lib/bench/bench.svelte';
	import { goToStep } from '$lib/bench/cutSteps';
	import HistoryList from '$lib/saving/HistoryList.svelte';
	import SavedState from '$lib/saving/SavedState.svelte';
	import Button from '$lib/ui/Button.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import RenderButton from './RenderButton.svelte';

	let { bench, actions }: { bench: Bench; actions: Actions } = $props();

	let { transition } = $derived(bench);
	let cut = $derived(transition.cut);

	async function history() {
		await transition.saver.flush();
		const params = { path: { cut_id: cut.id } };
		return request(api.GET('/api/cuts/{cut_id}/history', { params }));
	}

	function rename(name: string) {
		const plain = name.trim();
		if (plain && plain !== transition.recipe.name)
			transition.change(`Rename to ${plain}`, (recipe) => ({ ...recipe, name: plain }));
	}
</script>

<header class="bar">
	<h1 class="sr-only">{cut.edit_name}, cut {cut.number}</h1>
	<a href="/" class="brand"><img src="/mark.svg" alt="Idle Shimmer, all edits" /></a>
	<a href="/edits/{cut.edit_id}" class="edit" aria-label="Edit {cut.edit_name}">{cut.edit_name}</a>
	<span class="place"
		><span class="text-quiet">Cut</span>
		<span class="figures">{cut.number} <span class="text-quiet">of {cut.of}</span></span></span
	>
	<Button
		aria-label="Previous cut"
		tip={actions.previousCut.tip}
		disabled={!cut.previous_id}
		onclick={() => actions.previousCut.run()}>‹</Button
	>
	<Button
		aria-label="Next cut"
		tip={actions.nextCut.tip}
		disabled={!cut.next_id}
		onclick={() => actions.nextCut.run()}>›</Button
	>
	<span class="space"></span>
	{#if transition.saver.state === 'conflict'}
		<span class="conflict" role="alert">
			<span aria-hidden="true">▮</span> This cut was changed in another window
			<Button
				tip="Your version is kept as a variant"
				onclick={() => transition.resolve('theirs', bench.variants.pin)}>Load their version</Button
			>
			<Button onclick={() => transition.resolve('mine', bench.variants.pin)}>Keep my version</Button
			>
		</span>
	{:else}
		<SavedState saver={transition.saver} />
	{/if}
	<Button
		disabled={!cut.undo_label && transition.saver.isSaved}
		tip={cut.undo_label ? `Undo: ${cut.undo_label}` : 'Nothing to undo'}
		onclick={() => actions.undo.run()}>Undo</Button
	>
	<Button
		disabled={!cut.redo_label}
		tip={cut.redo_label ? `Redo: ${cut.redo_label}` : 'Nothing to redo'}
		onclick={() => actions.redo.run()}>Redo</Button
	>
	<HistoryList
		of="this cut"
		version="{cut.id} {cut.version}"
		read={history}
		onchoose={(number) => goToStep(transition, number)}
	/>
	<label class="recipe">
		<span class="text-quiet">Recipe</span>
		<TextField
			label="Recipe name"
			class="w-40"
			maxlength={200}
			value={transition.recipe.name}
			onchange={rename}
		/>
	</label>
	<Button tip={actions.book.tip} onclick={() => actions.book.run()}>Recipe book</Button>
	<ActivityMenu />
	<AccountMenu />
	<RenderButton {transition} findings={bench.preview.findings} />
</header>

<style>
	.bar {
		display: flex;
		flex: none;
		flex-wrap: wrap;
		align-items: center;
		min-height: 44px;
		gap: 8px;
		padding: 4px 16px;
		border-bottom: 1px solid var(--color-line);
		background: var(--color-panel);
		white-space: nowrap;
	}
	.brand {
		display: flex;
		align-items: center;
		justify-content: center;
		width: 24px;
		height: 24px;
	}
	.brand img {
		width: 20px;
		height: 20px;
	}
	.edit {
		max-width: 220px;
		padding: 4px 0;
		overflow: hidden;
		font-weight: 600;
		text-overflow: ellipsis;
	}
	.edit:hover {
		text-decoration: underline;
	}
	.space {
		flex: 1;
	}
	.conflict {
		display: inline-flex;
		align-items: center;
		gap: 6px;
		color: var(--color-failed);
	}
	.recipe {
		display: inline-flex;
		align-items: center;
		gap: 6px;
	}
</style>
