<script lang="ts">
	// The screen of an edit: its clips and cuts, and recipes for several cuts at once.
	import { untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import { api, request, type Edit } from '$lib/api/client';
	import { toast } from '$lib/ui/toast.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { counted, dropsFrames, rateText, timecode } from '$lib/ui/numbers';
	import TopBar from '$lib/ui/TopBar.svelte';
	import RecipeBook from '$lib/book/RecipeBook.svelte';
	import BeatBar from './BeatBar.svelte';
	import { checkName, STATUS_MARK } from './cutStatus';
	import ClipPanel from './ClipPanel.svelte';
	import DropFiles from './DropFiles.svelte';
	import { cutName, Run, type Flip } from './run.svelte';
	import EditFilm from './EditFilm.svelte';
	import UploadList from './UploadList.svelte';
	import { Uploads } from './uploads.svelte';

	let { given }: { given: Edit } = $props();

	const MOST_ZOOM = 40;
	const run = untrack(() => new Run(given));
	const uploads = new Uploads();
	let flips = $state<Flip>('');
	let choosing = $state(false);
	let shownClip = $state('');
	let zoom = $state(1);
	let edit = $derived(run.edit);
	let panelled = $derived(edit.placed.find((each) => each.id === shownClip));

	async function add(files: File[]) {
		await uploads.add(
			files,
			(clip) => void run.add(clip.id),
			() => edit.rate
		);
	}

	function rename(name: string) {
		if (name.trim() && name.trim() !== edit.name) void run.change({ name: name.trim() });
	}

	function onkeydown(event: KeyboardEvent) {
		const typing = (event.target as HTMLElement).matches('input:not([type=checkbox]), select');
		if (typing || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
		event.preventDefault();
		if (edit.undo_label) void run.undo();
	}

	/** Download the edit in an open format, and say what the format leaves out. */
	async function exported(kind: 'otio' | 'edl', dropFrame = false) {
		const path = { params: { path: { edit_id: edit.id, kind } } };
		try {
			const { notes } = await request(api.GET('/api/edits/{edit_id}/export/{kind}/notes', path));
			const link = document.createElement('a');
			link.href = `/api/edits/${edit.id}/export/${kind}${dropFrame ? '?drop_frame=true' : ''}`;
			link.download = `${edit.name}.${kind}`;
			link.click();
			if (notes.length) toast.info(`Exported ${edit.name}.${kind}. ${notes.join(' ')}`);
		} catch (error) {
			toast.error(error);
		}
	}

	async function render() {
		try {
			await request(api.POST('/api/renders', { body: { edit: edit.id, margin: 0 } }));
			await goto('/renders');
		} catch (error) {
			toast.error(error);
		}
	}
</script>

<svelte:window {onkeydown} />
<svelte:head><title>{edit.name}, Idle Shimmer</title></svelte:head>
<TopBar>
	<input
		class="text-field w-64 font-semibold"
		aria-label="Edit name"
		maxlength="200"
		value={edit.name}
		onchange={(event) => rename(event.currentTarget.value)}
	/>
	<span class="figures small text-quiet">
		{edit.width}×{edit.height}, {rateText(edit.rate)} fps, {timecode(edit.frame_count, run.rate)}
	</span>
	<span class="flex-1"></span>
	<button
		class="plain-button"
		disabled={!edit.undo_label}
		title={edit.undo_label ? `Undo: ${edit.undo_label} (Ctrl Z)` : 'Nothing to undo'}
		onclick={() => run.undo()}>Undo</button
	>
	<button class="plain-button" title="OpenTimelineIO, lossless" onclick={() => exported('otio')}
		>Export OTIO</button
	>
	{#if dropsFrames(run.rate)}
		<button
			class="plain-button"
			title="CMX 3600, drop-frame timecode"
			onclick={() => exported('edl', true)}>Export EDL (drop-frame)</button
		>
	{/if}
	<button
		class="plain-button"
		title="CMX 3600: cuts, dissolves, wipe codes"
		onclick={() => exported('edl')}
		>{dropsFrames(run.rate) ? 'Export EDL (non-drop)' : 'Export EDL'}</button
	>
	<button class="plain-button strong" onclick={render}>Render edit</button>
</TopBar>
<main class="flex-1 overflow-auto px-6 py-5">
	<div class="mb-1 flex h-7 items-center justify-between gap-3">
		<BeatBar {run} />
		<span class="flex items-center gap-2 text-quiet">
			<span class="small">Zoom</span>
			<NumberField
				label="Zoom"
				value={zoom}
				unit="×"
				low={1}
				high={MOST_ZOOM}
				step={0.5}
				rest={1}
				onchange={(next) => (zoom = next)}
			/>
		</span>
	</div>
	<EditFilm {run} {zoom} shown={shownClip} onshow={(id) => (shownClip = id)} />
	{#if panelled}
		{@const placed = panelled}
		<ClipPanel
			{placed}
			of={edit.placed.length}
			rate={edit.rate}
			onchange={(change) => run.changePlaced(placed, change)}
			onsplit={(frame) => run.split(placed, frame)}
			onremove={() => {
				shownClip = '';
				void run.remove(placed);
			}}
		/>
	{/if}

	<div class="mt-5 mb-2 flex h-7 items-center gap-3">
		<h2 class="text-[15px] font-semibold">{counted(edit.cuts.length, 'cut')}</h2>
		{#if edit.cuts.length}
			<button
				class="plain-button"
				onclick={() =>
					(run.chosen =
						run.chosen.length === edit.cuts.length ? [] : edit.cuts.map((cut) => cut.id))}
				>{run.chosen.length === edit.cuts.length ? 'Select none' : 'Select all'}</button
			>
			{#if run.chosen.length}
				<button class="plain-button strong" onclick={() => (choosing = true)}
					>Apply recipe to {counted(run.chosen.length, 'cut')}…</button
				>
				<label class="small flex items-center gap-2 text-quiet"
					>Flip alternate cuts
					<select class="choice" bind:value={flips}>
						<option value="">No</option>
						<option value="horizontal">Horizontally</option>
						<option value="vertical">Vertically</option>
					</select></label
				>
			{:else}
				<span class="small text-quiet">Select cuts to apply one recipe to all of them</span>
			{/if}
		{/if}
	</div>
	{#if edit.cuts.length}
		<ol class="cuts">
			{#each edit.cuts as cut, n (cut.id)}
				{@const one = edit.placed[n]}
				{@const other = edit.placed[n + 1]}
				{#if one && other}
					<li class:chosen={run.chosen.includes(cut.id)}>
						<input
							type="checkbox"
							class="tick"
							aria-label="Select cut {n + 1}"
							checked={run.chosen.includes(cut.id)}
							onchange={() => run.toggle(cut.id)}
						/>
						<a href="/cuts/{cut.id}">
							<span class="figures quiet">{n + 1}</span>
							<span class="pair">
								<img
									src="/api/clips/{one.clip.id}/pictures/{Math.min(
										one.out_frame - 1,
										one.clip.frame_count - 1
									)}.jpg?height=96"
									alt=""
								/>
								<img
									src="/api/clips/{other.clip.id}/pictures/{Math.min(
										other.in_frame,
										other.clip.frame_count - 1
									)}.jpg?height=96"
									alt=""
								/>
							</span>
							<span class="text">
								<b>{cutName(cut)}</b>
								{#if cut.problem}
									<span class="small failed" title={cut.problem}
										><span aria-hidden="true">▮</span> {cut.problem}</span
									>
								{:else if cut.worst.status !== 'ok'}
									<span class="small {cut.worst.status}" title={cut.worst.message}
										><span aria-hidden="true">{STATUS_MARK[cut.worst.status]}</span>
										{checkName(cut.worst.id)}</span
									>
								{/if}
								<span class="quiet small">
									{one.clip.name} to {other.clip.name}
								</span>
								<span class="figures small">
									<span class="out">{cut.before}</span> | <span class="in">{cut.after}</span>
									<span class="quiet">at {timecode(run.starts[n + 1] ?? 0, run.rate)}</span>
								</span>
							</span>
						</a>
					</li>
				{/if}
			{/each}
		</ol>
	{:else}
		<p class="text-quiet">This edit has no cuts. Add a second clip below.</p>
	{/if}

	<h2 class="mt-6 mb-2 text-[15px] font-semibold">Add clips at the end</h2>
	<div class="flex max-w-2xl flex-col gap-2">
		<DropFiles onfiles={add} />
		<UploadList {uploads} />
	</div>
</main>

{#if run.chosen[0]}
	<RecipeBook
		bind:open={choosing}
		cutId={run.chosen[0]}
		rate={edit.rate}
		version={edit.changed_at}
		title="Recipe for {counted(run.chosen.length, 'cut')}"
		onapply={(entry) => run.apply(entry, flips)}
	/>
{/if}

<style>
	.cuts {
		display: grid;
		grid-template-columns: repeat(auto-fill, minmax(340px, 1fr));
		gap: 8px;
	}
	.cuts li {
		position: relative;
	}
	.tick {
		position: absolute;
		top: 10px;
		right: 10px;
	}
	.chosen a {
		border-color: var(--color-seam);
	}
	.text .warning {
		color: var(--color-warning);
	}
	.text .failed {
		color: var(--color-failed);
	}
	.cuts a {
		display: flex;
		align-items: center;
		gap: 12px;
		padding: 8px 12px;
		border: 1px solid var(--color-line);
		border-radius: 6px;
		background: var(--color-panel);
	}
	.cuts a:hover {
		border-color: var(--color-quiet);
	}
	.pair {
		display: flex;
		flex: none;
		gap: 2px;
		background: var(--color-seam);
	}
	.pair img {
		width: 72px;
		height: 44px;
		background: var(--color-surround);
		object-fit: cover;
	}
	.text {
		display: flex;
		flex-direction: column;
		min-width: 0;
	}
	.text b,
	.text .small {
		overflow: hidden;
		font-weight: 600;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.text .small {
		font-weight: 400;
	}
	.quiet {
		color: var(--color-quiet);
	}
	.text .out {
		color: var(--color-outgoing);
	}
	.text .in {
		color: var(--color-incoming);
	}
</style>
