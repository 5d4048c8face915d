<script lang="ts">
	// The bar of the bench: edit and cut, undo and redo, save state, recipe, render.
	import { api, request, type Render } from '$lib/api/client';
	import { toast } from '$lib/ui/toast.svelte';
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
			render = await request(api.POST('/api/renders', { body: { cut: bench.cut.id, margin: 12 } }));
			timer = setTimeout(follow, POLL_MS);
			// Failed checks never stop a render.
			const failed = bench.preview.findings.find((each) => each.status === 'failed');
			if (failed) toast.info(`Rendering with unresolved checks. ${failed.message}`);
		} catch (error) {
			toast.error(error);
		}
	}

	async function follow() {
		if (!render) return;
		try {
			const path = { params: { path: { render_id: render.id } } };
			render = await request(api.GET('/api/renders/{render_id}', path));
			if (render.state === 'failed') toast.error(new Error(`The render failed: ${render.message}`));
			if (running) timer = setTimeout(follow, POLL_MS);
		} catch (error) {
			toast.error(error);
		}
	}

	async function cancel() {
		if (!render) return;
		const path = { params: { path: { render_id: render.id } } };
		try {
			render = await request(api.POST('/api/renders/{render_id}/cancel', path));
		} catch (error) {
			toast.error(error);
		}
	}

	function rename(name: string) {
		const plain = name.trim();
		if (plain && plain !== bench.recipe.name) {
			bench.change(`Rename to ${plain}`, (recipe) => ({ ...recipe, name: plain }));
		}
	}
</script>

<header class="bar">
	<a href="/" class="brand" title="All edits"
		><img src="/mark.svg" alt="Idle Shimmer, all edits" /></a
	>
	<a href="/edits/{bench.cut.edit_id}" class="edit" title="Open the edit {bench.cut.edit_name}"
		>{bench.cut.edit_name}</a
	>
	<span class="quiet">Cut</span>
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
			<span aria-hidden="true">▮</span> This cut was changed in another window
			<button
				class="plain-button"
				title="Your version is kept as a variant"
				onclick={() => bench.resolve('theirs')}>Load their version</button
			>
			<button class="plain-button" onclick={() => bench.resolve('mine')}>Keep my version</button>
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
		<span class="quiet">Recipe</span>
		<input
			class="text-field"
			aria-label="Recipe name"
			value={bench.recipe.name}
			onchange={(event) => rename(event.currentTarget.value)}
		/>
	</label>
	<button class="plain-button" title="Recipe book (R)" onclick={onbook}>Recipe book</button>
	{#if render && running}
		<span class="progress figures" role="status">
			<progress max={render.total_frames} value={render.done_frames} aria-label="Rendering"
			></progress>
			{render.state === 'waiting' ? 'Queued' : `${render.done_frames} of ${render.total_frames}`}
			<button class="bare-button" aria-label="Cancel render" onclick={cancel}>✕</button>
		</span>
	{:else}
		{#if render?.state === 'done'}
			<a class="plain-button" href="/api/renders/{render.id}/file" download>Download</a>
		{/if}
		<button
			class="plain-button strong"
			title="Render this window with 12 frames before and after, as MP4"
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
		color: var(--color-failed);
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
