<script lang="ts">
	import {
		Table,
		TableBody,
		TableBodyCell,
		TableBodyRow,
		TableHead,
		TableHeadCell
	} from 'flowbite-svelte';
	import { goto } from '$app/navigation';
	import { api, request, problemText, type Edit } from '$lib/api/client';
	import { checkName, STATUS_MARK } from '$lib/edits/cutStatus';
	import MissingMedia from '$lib/edits/MissingMedia.svelte';
	import NewEdit from '$lib/edits/NewEdit.svelte';
	import Failure from '$lib/ui/Failure.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import { counted, rateNumber, rateText, timecode } from '$lib/ui/numbers';
	import TopBar from '$lib/ui/TopBar.svelte';

	const STRIP_CLIPS = 8;
	let edits = $state.raw<Edit[] | null>(null);
	let failed = $state.raw<unknown>(null);
	let creating = $state(false);
	let picker: HTMLInputElement;
	let lacking = $state.raw<{ file: File; missing: string[] } | null>(null);

	async function load() {
		try {
			edits = await request(api.GET('/api/edits'));
		} catch (error) {
			failed = error;
		}
	}
	void load();

	async function remove(edit: Edit) {
		const path = { params: { path: { edit_id: edit.id } } };
		try {
			await request(api.DELETE('/api/edits/{edit_id}', path));
			toast.info(`Deleted the edit “${edit.name}”. Its clips are kept.`, {
				label: 'Undo',
				run: () => void changed(api.POST('/api/edits/{edit_id}/restore', path))
			});
			await load();
		} catch (error) {
			toast.error(error);
		}
	}

	function duplicate(edit: Edit) {
		const path = { params: { path: { edit_id: edit.id } } };
		return changed(api.POST('/api/edits/{edit_id}/duplicate', path));
	}

	async function changed(asked: Parameters<typeof request<Edit>>[0]) {
		try {
			await request(asked);
			await load();
		} catch (error) {
			toast.error(error);
		}
	}

	/** Create an edit from a file; ask for media that is missing. */
	async function importEdit(file: File) {
		try {
			const answer = await fetch(`/api/edits/import?name=${encodeURIComponent(file.name)}`, {
				method: 'POST',
				body: file
			});
			const body = await answer.json();
			if (!answer.ok) throw new Error(problemText(body));
			lacking = body.edit ? null : { file, missing: body.missing };
			if (body.edit) await goto(`/edits/${body.edit.id}`);
		} catch (error) {
			toast.error(error);
		}
	}

	function firstFrame(edit: Edit, place: number): string {
		const placed = edit.placed[place];
		if (!placed) return '';
		const at = (placed.in_frame / rateNumber(edit.rate)) * rateNumber(placed.clip.rate);
		const number = Math.min(Math.round(at), placed.clip.frame_count - 1);
		return `/api/clips/${placed.clip.id}/pictures/${number}.jpg?height=72&near=true`;
	}

	/** How many cuts of the edit cannot be read. */
	function unreadable(edit: Edit): number {
		return edit.cuts.filter((cut) => cut.problem).length;
	}

	/** The worst check of all its cuts, unless all are ok. */
	function worstOf(edit: Edit) {
		const found = edit.cuts.map((cut) => cut.worst);
		return (
			found.find((each) => each.status === 'failed') ??
			found.find((each) => each.status === 'warning')
		);
	}

	function when(text: string): string {
		return new Date(text).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
	}
</script>

<svelte:head><title>Edits, Idle Shimmer</title></svelte:head>
<TopBar>
	<span class="flex-1"></span>
	<button class="plain-button" onclick={() => picker.click()}>Import OTIO or EDL…</button>
	<input
		bind:this={picker}
		type="file"
		accept=".otio,.edl"
		hidden
		aria-label="Import edit"
		onchange={(event) => {
			const file = event.currentTarget.files?.[0];
			event.currentTarget.value = '';
			if (file) void importEdit(file);
		}}
	/>
	<button class="plain-button strong" onclick={() => (creating = true)}>New edit</button>
</TopBar>
<main class="flex-1 overflow-auto p-6">
	{#if failed}
		<Failure error={failed} />
	{:else if !edits}
		<p class="text-quiet">Loading edits…</p>
	{:else if !edits.length}
		<div class="m-auto mt-24 flex max-w-md flex-col items-center gap-3 text-center">
			<p class="text-[15px]">No edits yet.</p>
			<p class="text-quiet">
				Create an edit from two or more clips: each place where two clips meet is a cut. Or start
				from one finished video and detect its cuts.
			</p>
			<button class="plain-button strong" onclick={() => (creating = true)}>New edit</button>
		</div>
	{:else}
		<Table
			class="w-full text-[13px]! text-ink!"
			divClass="mx-auto max-w-[1160px] overflow-hidden rounded-md border border-line"
		>
			<TableHead class="bg-panel! text-[11px]! normal-case! text-quiet!">
				<TableHeadCell class="px-4 py-2 font-normal">Edit</TableHeadCell>
				<TableHeadCell class="px-4 py-2 font-normal">Clips</TableHeadCell>
				<TableHeadCell class="px-4 py-2 font-normal">Duration</TableHeadCell>
				<TableHeadCell class="px-4 py-2 font-normal">Cuts</TableHeadCell>
				<TableHeadCell class="px-4 py-2 font-normal">Last changed</TableHeadCell>
				<TableHeadCell class="px-4 py-2"
					><span class="sr-only">Duplicate, delete</span></TableHeadCell
				>
			</TableHead>
			<TableBody>
				{#each edits as edit (edit.id)}
					<TableBodyRow class="border-line! bg-page! hover:bg-panel!">
						<TableBodyCell class="max-w-60 px-4 py-3">
							<a
								href="/edits/{edit.id}"
								class="block truncate text-[15px] font-semibold hover:underline">{edit.name}</a
							>
							<span class="figures small text-quiet"
								>{edit.width}×{edit.height}, {rateText(edit.rate)} fps</span
							>
						</TableBodyCell>
						<TableBodyCell class="px-4 py-3">
							<a href="/edits/{edit.id}" class="flex gap-px" aria-label="Open {edit.name}">
								{#each edit.placed.slice(0, STRIP_CLIPS) as placed, n (placed.id)}
									<img
										src={firstFrame(edit, n)}
										alt=""
										class="h-8 w-10 shrink-0 bg-surround object-cover first:rounded-l last:rounded-r"
									/>
								{/each}
								{#if edit.placed.length > STRIP_CLIPS}
									<span class="px-2 text-quiet">+{edit.placed.length - STRIP_CLIPS}</span>
								{/if}
							</a>
						</TableBodyCell>
						<TableBodyCell class="figures px-4 py-3 text-[12px]"
							>{timecode(edit.frame_count, rateNumber(edit.rate))}</TableBodyCell
						>
						{@const worst = worstOf(edit)}
						<TableBodyCell class="px-4 py-3"
							>{counted(edit.cuts.length, 'cut')}
							{#if unreadable(edit)}
								<span class="small text-failed"
									><span aria-hidden="true">▮</span>
									{unreadable(edit)} cannot be read</span
								>
							{:else if worst}
								<span
									class="small {worst.status === 'failed' ? 'text-failed' : 'text-warning'}"
									title={worst.message}
									><span aria-hidden="true">{STATUS_MARK[worst.status]}</span>
									{checkName(worst.id)}</span
								>
							{/if}</TableBodyCell
						>
						<TableBodyCell class="px-4 py-3 text-quiet">{when(edit.changed_at)}</TableBodyCell>
						<TableBodyCell class="px-3 py-3 text-right whitespace-nowrap">
							<button
								class="bare-button"
								aria-label="Duplicate {edit.name}"
								onclick={() => duplicate(edit)}>Duplicate</button
							>
							<button
								class="bare-button"
								aria-label="Delete {edit.name}"
								onclick={() => remove(edit)}>Delete</button
							>
						</TableBodyCell>
					</TableBodyRow>
				{/each}
			</TableBody>
		</Table>
	{/if}
</main>

<NewEdit bind:open={creating} />
{#if lacking}
	{@const { file, missing } = lacking}
	<MissingMedia
		name={file.name}
		{missing}
		onfound={() => importEdit(file)}
		onclose={() => (lacking = null)}
	/>
{/if}
