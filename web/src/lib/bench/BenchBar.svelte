<script lang="ts">
	// The bar of the bench: which edit and cut, undo and redo, saved state, recipe, render.
	import { api, need, type Render } from '$lib/api/client';
	import { notices } from '$lib/ui/notices.svelte';
	import { onDestroy } from 'svelte';
	import type { Bench } from './bench.svelte';
	import HistoryList from './HistoryList.svelte';

	type Props = { bench: Bench; go: (cutId: string | null) => void; onbook: () => void };
	let { bench, go, onbook }: Props = $props();

	const POLL_MS = 500;
	const SAVED_TEXT = {
		saved: 'Saved',
		saving: 'Saving…',
		unsaved: 'Not saved yet',
		conflict: 'Changed elsewhere'
	};
	let render = $state.raw<Render | null>(null);
	let timer: ReturnType<typeof setTimeout> | undefined;
	onDestroy(() => clearTimeout(timer));

	let running = $derived(render && ['waiting', 'running'].includes(render.state));

	async function start() {
		try {
			await bench.flush();
			render = await need(api.POST('/api/renders', { body: { cut: bench.cut.id, margin: 12 } }));
			timer = setTimeout(follow, POLL_MS);
			// A render never refuses for a check: it tells.
			const broken = bench.preview.findings.find((each) => each.verdict === 'broken');
			if (broken) notices.tell(`Rendering it as it is. ${broken.sentence}`);
		} catch (error) {
			notices.wrong(error);
		}
	}

	async function follow() {
		if (!render) return;
		try {
			const path = { params: { path: { render_id: render.id } } };
			render = await need(api.GET('/api/renders/{render_id}', path));
			if (render.state === 'failed')
				notices.wrong(new Error(`The render failed: ${render.message}`));
			if (running) timer = setTimeout(follow, POLL_MS);
		} catch (error) {
			notices.wrong(error);
		}
	}

	async function cancel() {
		if (!render) return;
		const path = { params: { path: { render_id: render.id } } };
		try {
			render = await need(api.POST('/api/renders/{render_id}/cancel', path));
		} catch (error) {
			notices.wrong(error);
		}
	}

	function rename(name: string) {
		const plain = name.trim();
		if (plain && plain !== bench.recipe.name) {
			bench.change(`name ${plain}`, (recipe) => ({ ...recipe, name: plain }));
		}
	}
</script>

<header class="bar">
	<a href="/" class="brand" title="All edits"
		><img src="/mark.svg" alt="Idle Shimmer, all edits" /></a
	>
	<a href="/edits/{bench.cut.edit_id}" class="edit" title="{bench.cut.edit_name}: the whole run"
		>{bench.cut.edit_name}</a
	>
	<span class="quiet">cut</span>
	<span class="figures">{bench.cut.number} <span class="quiet">of {bench.cut.of}</span></span>
	<button
		class="plain-button"
		aria-label="Previous cut"
		title="Previous cut (PageUp)"
		disabled={!bench.cut.previous_id}
		onclick={() => go(bench.cut.previous_id)}>‹</button
	>
	<button
		class="plain-button"
		aria-label="Next cut"
		title="Next cut (PageDown)"
		disabled={!bench.cut.next_id}
		onclick={() => go(bench.cut.next_id)}>›</button
	>
	<span class="space"></span>
	{#if bench.saved === 'conflict'}
		<span class="conflict" role="alert">
			<span aria-hidden="true">▮</span> Changed in another window
			<button
				class="plain-button"
				title="Yours is pinned as a variant"
				onclick={() => bench.resolve('theirs')}>Load that state</button
			>
			<button class="plain-button" onclick={() => bench.resolve('mine')}>Keep mine on top</button>
		</span>
	{:else}
		<span class="quiet saved" role="status" data-testid="saved">{SAVED_TEXT[bench.saved]}</span>
	{/if}
	<button
		class="plain-button"
		disabled={!bench.cut.undo_label && bench.saved === 'saved'}
		title={bench.cut.undo_label ? `Undo: ${bench.cut.undo_label}` : 'Nothing to undo'}
		onclick={() => bench.step('undo')}>Undo</button
	>
	<button
		class="plain-button"
		disabled={!bench.cut.redo_label}
		title={bench.cut.redo_label ? `Redo: ${bench.cut.redo_label}` : 'Nothing to redo'}
		onclick={() => bench.step('redo')}>Redo</button
	>
	<HistoryList {bench} />
	<label class="recipe">
		<span class="quiet">recipe</span>
		<input
			class="text-field"
			aria-label="Name of the recipe"
			value={bench.recipe.name}
			onchange={(event) => rename(event.currentTarget.value)}
		/>
	</label>
	<button class="plain-button" title="Recipe book (R)" onclick={onbook}>Recipe book</button>
	{#if render && running}
		<span class="progress figures" role="status">
			<progress max={render.total_frames} value={render.done_frames} aria-label="Rendering"
			></progress>
			{render.state === 'waiting' ? 'waiting' : `${render.done_frames} of ${render.total_frames}`}
			<button class="bare-button" aria-label="Cancel the render" onclick={cancel}>✕</button>
		</span>
	{:else}
		{#if render?.state === 'done'}
			<a class="plain-button" href="/api/renders/{render.id}/file" download>Download</a>
		{/if}
		<button
			class="plain-button strong"
			title="Render this window and 12 frames around it as MP4"
			onclick={start}>Render</button
		>
	{/if}
</header>

<style>
	.bar {
		display: flex;
		flex: none;
		align-items: center;
		height: 44px;
		gap: 8px;
		padding: 0 16px;
		border-bottom: 1px solid var(--color-line);
		background: var(--color-panel);
		white-space: nowrap;
	}
	.brand img {
		width: 20px;
		height: 20px;
	}
	.edit {
		max-width: 240px;
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
	.quiet {
		color: var(--color-quiet);
	}
	.saved {
		margin-right: 4px;
	}
	.conflict {
		display: inline-flex;
		align-items: center;
		gap: 6px;
		color: var(--color-broken);
	}
	.recipe {
		display: inline-flex;
		align-items: center;
		gap: 6px;
	}
	.recipe input {
		width: 168px;
	}
	.progress {
		display: inline-flex;
		align-items: center;
		gap: 6px;
		font-size: 12px;
	}
	progress {
		width: 80px;
		height: 6px;
		appearance: none;
		border: 0;
		border-radius: 3px;
		overflow: hidden;
		background: var(--color-line);
	}
	progress::-webkit-progress-bar {
		background: var(--color-line);
	}
	progress::-webkit-progress-value {
		background: var(--color-seam);
	}
</style>
