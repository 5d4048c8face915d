<script lang="ts">
	// The run: the clips of an edit side by side to scale, each cut with its window over both.
	import { untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import {
		api,
		need,
		type BookRecipe,
		type CutSummary,
		type Edit,
		type Placed
	} from '$lib/api/client';
	import { notices } from '$lib/ui/notices.svelte';
	import { counted, rateNumber, rateText, timecode } from '$lib/ui/numbers';
	import TopBar from '$lib/ui/TopBar.svelte';
	import RecipeBook from '$lib/book/RecipeBook.svelte';
	import { VERDICT_MARK } from './cutVerdict';
	import ClipPanel from './ClipPanel.svelte';
	import DropFiles from './DropFiles.svelte';
	import UploadList from './UploadList.svelte';
	import { Uploads } from './uploads.svelte';

	let { given }: { given: Edit } = $props();

	const FILM_PX = 72;
	let edit = $state.raw<Edit>(untrack(() => given));
	let width = $state(1000);
	const uploads = new Uploads();
	let chosen = $state<string[]>([]);
	let flips = $state<'' | 'left_right' | 'up_down'>('');
	let choosing = $state(false);
	let shownClip = $state('');
	let panelled = $derived(edit.placed.find((each) => each.id === shownClip));

	let rate = $derived(rateNumber(edit.rate));
	let scale = $derived(width / Math.max(1, edit.frame_count));
	let starts = $derived(
		edit.placed.map((_, n) =>
			edit.placed.slice(0, n).reduce((sum, each) => sum + each.out_frame - each.in_frame, 0)
		)
	);

	function frames(placed: Placed): number {
		return placed.out_frame - placed.in_frame;
	}

	/** Addresses of the pictures that fill a clip's film, one for each picture's width. */
	function film(placed: Placed): string[] {
		const pictureWidth = (FILM_PX * edit.width) / edit.height;
		const count = Math.max(1, Math.ceil((frames(placed) * scale) / pictureWidth));
		return Array.from({ length: count }, (_, n) => {
			const at = placed.in_frame + ((n + 0.5) / count) * frames(placed);
			const own = Math.round((at / rate) * rateNumber(placed.clip.rate));
			const number = Math.min(own, placed.clip.frame_count - 1);
			return `/api/clips/${placed.clip.id}/pictures/${number}.jpg?height=144&near=true`;
		});
	}

	function cutPlace(n: number): number {
		return (starts[n + 1] ?? 0) * scale;
	}

	function describe(cut: CutSummary): string {
		return cut.recipe_name === 'Untitled' && !cut.pass_count ? 'hard cut' : cut.recipe_name;
	}

	async function take(asked: Parameters<typeof need<Edit>>[0]) {
		try {
			edit = await need(asked);
		} catch (error) {
			notices.wrong(error);
		}
	}

	function placedPath(placed: Placed) {
		return { params: { path: { edit_id: edit.id, placed_id: placed.id } } };
	}

	function changePlaced(
		placed: Placed,
		body: { in_frame?: number; out_frame?: number; position?: number }
	) {
		return take(
			api.PATCH('/api/edits/{edit_id}/placed/{placed_id}', { ...placedPath(placed), body })
		);
	}

	function splitPlaced(placed: Placed, at_frame: number) {
		return take(
			api.POST('/api/edits/{edit_id}/placed/{placed_id}/split', {
				...placedPath(placed),
				body: { at_frame }
			})
		);
	}

	function removePlaced(placed: Placed) {
		shownClip = '';
		return take(api.DELETE('/api/edits/{edit_id}/placed/{placed_id}', placedPath(placed)));
	}

	function toggle(cutId: string) {
		chosen = chosen.includes(cutId) ? chosen.filter((id) => id !== cutId) : [...chosen, cutId];
	}

	/** Put a recipe on the chosen cuts, in one step that can be taken back. */
	async function apply(entry: BookRecipe) {
		const path = { params: { path: { edit_id: edit.id } } };
		const seen = edit.cuts
			.filter((cut) => chosen.includes(cut.id))
			.map((cut) => ({ cut: cut.id, version: cut.version }));
		const body = {
			cuts: seen,
			recipe: { ...entry.recipe, name: entry.name } as never,
			window: { before: entry.before, after: entry.after, rate: edit.rate },
			flip_every_second: flips || null
		};
		try {
			edit = await need(api.POST('/api/edits/{edit_id}/apply', { ...path, body }));
			notices.tell(`“${entry.name}” is on ${counted(seen.length, 'cut')}.`, {
				label: 'Undo',
				run: () => void unapply(seen.map((each) => each.cut))
			});
		} catch (error) {
			notices.wrong(error);
		}
	}

	async function unapply(ids: string[]) {
		const path = { params: { path: { edit_id: edit.id } } };
		const cuts = edit.cuts
			.filter((cut) => ids.includes(cut.id))
			.map((cut) => ({ cut: cut.id, version: cut.version }));
		try {
			edit = await need(api.POST('/api/edits/{edit_id}/apply/undo', { ...path, body: { cuts } }));
		} catch (error) {
			notices.wrong(error);
		}
	}

	async function add(files: File[]) {
		await uploads.add(files, (clip) => void place(clip.id));
	}

	async function place(clip: string) {
		const asked = api.POST('/api/edits/{edit_id}/clips', {
			params: { path: { edit_id: edit.id } },
			body: { clip }
		});
		try {
			edit = await need(asked);
		} catch (error) {
			notices.wrong(error);
		}
	}

	async function rename(name: string) {
		const path = { params: { path: { edit_id: edit.id } } };
		if (!name.trim() || name.trim() === edit.name) return;
		try {
			edit = await need(
				api.PATCH('/api/edits/{edit_id}', { ...path, body: { name: name.trim() } })
			);
		} catch (error) {
			notices.wrong(error);
		}
	}

	/** Download the edit in an open format; what the format leaves out is said. */
	async function exported(kind: 'otio' | 'edl') {
		const path = { params: { path: { edit_id: edit.id, kind } } };
		try {
			const { notes } = await need(api.GET('/api/edits/{edit_id}/export/{kind}/notes', path));
			const link = document.createElement('a');
			link.href = `/api/edits/${edit.id}/export/${kind}`;
			link.download = `${edit.name}.${kind}`;
			link.click();
			if (notes.length) notices.tell(`Exported ${edit.name}.${kind}. ${notes.join(' ')}`);
		} catch (error) {
			notices.wrong(error);
		}
	}

	async function render() {
		try {
			await need(api.POST('/api/renders', { body: { edit: edit.id, margin: 0 } }));
			await goto('/renders');
		} catch (error) {
			notices.wrong(error);
		}
	}
</script>

<svelte:head><title>{edit.name}, Idle Shimmer</title></svelte:head>
<TopBar>
	<input
		class="text-field w-64 font-semibold"
		aria-label="Name of the edit"
		maxlength="200"
		value={edit.name}
		onchange={(event) => rename(event.currentTarget.value)}
	/>
	<span class="figures small text-quiet">
		{edit.width}×{edit.height}, {rateText(edit.rate)} fps, {timecode(edit.frame_count, rate)}
	</span>
	<span class="flex-1"></span>
	<button class="plain-button" title="OpenTimelineIO, lossless" onclick={() => exported('otio')}
		>Export OTIO</button
	>
	<button class="plain-button" title="CMX 3600: cuts and dissolves" onclick={() => exported('edl')}
		>Export EDL</button
	>
	<button class="plain-button strong" onclick={render}>Render the edit</button>
</TopBar>
<main class="flex-1 overflow-auto px-6 py-5">
	<div class="run" bind:clientWidth={width}>
		<div class="film" style:height="{FILM_PX}px">
			{#each edit.placed as placed, n (placed.id)}
				<div
					class="footage"
					style:left="{(starts[n] ?? 0) * scale}px"
					style:width="{frames(placed) * scale - 1}px"
				>
					{#each film(placed) as address (address)}<img
							src={address}
							alt=""
							draggable="false"
						/>{/each}
				</div>
			{/each}
			{#each edit.cuts as cut, n (cut.id)}
				<a
					href="/cuts/{cut.id}"
					class="cut"
					style:left="{cutPlace(n) - cut.before * scale}px"
					style:width="{(cut.before + cut.after) * scale}px"
					aria-label="Cut {n + 1}: {describe(cut)}"
					title="Cut {n + 1}: {describe(cut)}, {cut.before} | {cut.after} frames"
				>
					<i class="out" style:width="{(100 * cut.before) / (cut.before + cut.after)}%"></i>
					<i class="in"></i>
				</a>
				<div class="seam" style:left="{cutPlace(n) - 1}px"></div>
			{/each}
		</div>
		<div class="names small">
			{#each edit.placed as placed, n (placed.id)}
				<button
					style:left="{(starts[n] ?? 0) * scale}px"
					style:width="{frames(placed) * scale - 8}px"
					aria-pressed={shownClip === placed.id}
					title="{placed.clip.name}: trim, split, move"
					onclick={() => (shownClip = shownClip === placed.id ? '' : placed.id)}
					>{placed.clip.name}</button
				>
			{/each}
		</div>
	</div>
	{#if panelled}
		{@const placed = panelled}
		<ClipPanel
			{placed}
			of={edit.placed.length}
			rate={edit.rate}
			onchange={(change) => changePlaced(placed, change)}
			onsplit={(frame) => splitPlaced(placed, frame)}
			onremove={() => removePlaced(placed)}
		/>
	{/if}

	<div class="mt-5 mb-2 flex h-7 items-center gap-3">
		<h2 class="text-[15px] font-semibold">{counted(edit.cuts.length, 'cut')}</h2>
		{#if edit.cuts.length}
			<button
				class="plain-button"
				onclick={() =>
					(chosen = chosen.length === edit.cuts.length ? [] : edit.cuts.map((cut) => cut.id))}
				>{chosen.length === edit.cuts.length ? 'Select none' : 'Select all'}</button
			>
			{#if chosen.length}
				<button class="plain-button strong" onclick={() => (choosing = true)}
					>Put a recipe on {counted(chosen.length, 'cut')}…</button
				>
				<label class="small flex items-center gap-2 text-quiet"
					>flip every second one
					<select class="choice" bind:value={flips}>
						<option value="">no</option>
						<option value="left_right">left and right</option>
						<option value="up_down">up and down</option>
					</select></label
				>
			{:else}
				<span class="small text-quiet">Tick cuts to put a recipe on several at once.</span>
			{/if}
		{/if}
	</div>
	{#if edit.cuts.length}
		<ol class="cuts">
			{#each edit.cuts as cut, n (cut.id)}
				{@const one = edit.placed[n]}
				{@const other = edit.placed[n + 1]}
				{#if one && other}
					<li class:chosen={chosen.includes(cut.id)}>
						<input
							type="checkbox"
							class="tick"
							aria-label="Select cut {n + 1}"
							checked={chosen.includes(cut.id)}
							onchange={() => toggle(cut.id)}
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
								<b>{describe(cut)}</b>
								{#if cut.worst.verdict !== 'ok'}
									<span class="small {cut.worst.verdict}" title={cut.worst.sentence}
										><span aria-hidden="true">{VERDICT_MARK[cut.worst.verdict]}</span>
										{cut.worst.id.replace('_', ' ')}</span
									>
								{/if}
								<span class="quiet small">
									{one.clip.name} to {other.clip.name}
								</span>
								<span class="figures small">
									<span class="out">{cut.before}</span> | <span class="in">{cut.after}</span>
									<span class="quiet">at {timecode(starts[n + 1] ?? 0, rate)}</span>
								</span>
							</span>
						</a>
					</li>
				{/if}
			{/each}
		</ol>
	{:else}
		<p class="text-quiet">One clip has no cut yet: add a second one below.</p>
	{/if}

	<h2 class="mt-6 mb-2 text-[15px] font-semibold">Add clips at the end</h2>
	<div class="flex max-w-2xl flex-col gap-2">
		<DropFiles onfiles={add} />
		<UploadList {uploads} />
	</div>
</main>

{#if chosen[0]}
	<RecipeBook
		bind:open={choosing}
		cutId={chosen[0]}
		version={edit.cuts.find((cut) => cut.id === chosen[0])?.version ?? 0}
		title="Recipe for {counted(chosen.length, 'cut')}"
		onapply={apply}
	/>
{/if}

<style>
	.run {
		position: relative;
	}
	.film {
		position: relative;
		border-radius: 6px;
		background: var(--color-surround);
	}
	.footage {
		position: absolute;
		top: 0;
		bottom: 0;
		display: flex;
		overflow: hidden;
	}
	.footage img {
		flex: 1 0 auto;
		height: 100%;
		min-width: 0;
		width: 0;
		object-fit: cover;
	}
	.cut {
		position: absolute;
		top: -5px;
		bottom: -5px;
		display: flex;
		min-width: 10px;
	}
	.cut i {
		border-radius: 4px 0 0 4px;
		border: 2px solid var(--color-outgoing);
		border-right: 0;
		background: #f0a86833;
	}
	.cut i.in {
		flex: 1;
		border: 2px solid var(--color-incoming);
		border-left: 0;
		border-radius: 0 4px 4px 0;
		background: #63b5a333;
	}
	.cut:hover i {
		background: #f5f0e64d;
	}
	.seam {
		position: absolute;
		top: -8px;
		bottom: -8px;
		width: 2px;
		background: var(--color-seam);
		pointer-events: none;
	}
	.names {
		position: relative;
		height: 26px;
	}
	.names button {
		position: absolute;
		top: 6px;
		padding: 2px 4px;
		border-radius: 4px;
		overflow: hidden;
		text-align: left;
		color: var(--color-quiet);
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.names button:hover,
	.names button[aria-pressed='true'] {
		background: var(--color-surround);
		color: var(--color-ink);
	}
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
	.text .look {
		color: var(--color-look);
	}
	.text .broken {
		color: var(--color-broken);
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
