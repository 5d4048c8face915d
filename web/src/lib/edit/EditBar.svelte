<script lang="ts">
	// The bar of an edit: its name and facts, undo and redo, exports, render.
	import { goto } from '$app/navigation';
	import { api, request } from '$lib/api/client';
	import { checkName } from '$lib/recipe/checkStatus';
	import RenderDialog from '$lib/render/RenderDialog.svelte';
	import HistoryList from '$lib/saving/HistoryList.svelte';
	import SavedState from '$lib/saving/SavedState.svelte';
	import Button from '$lib/ui/Button.svelte';
	import { dropsFrames, rateText, timecode } from '$lib/ui/numbers';
	import Popover from '$lib/ui/Popover.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import TopBar from '$lib/shell/TopBar.svelte';
	import type { EditDocument } from './editDocument.svelte';
	import { goToStep } from './editSteps';

	let { editDocument }: { editDocument: EditDocument } = $props();

	type Export = { kind: 'otio' | 'edl'; drop?: boolean; name: string; about: string };
	let exporting = $state(false);
	let rendering = $state(false);
	let edit = $derived(editDocument.edit);
	let exports = $derived<Export[]>([
		{ kind: 'otio', name: 'Export OTIO', about: 'OpenTimelineIO, with every transition' },
		...(dropsFrames(editDocument.rate)
			? [
					{
						kind: 'edl' as const,
						drop: true,
						name: 'Export EDL (drop-frame)',
						about: 'CMX 3600, drop-frame timecode'
					}
				]
			: []),
		{
			kind: 'edl',
			name: dropsFrames(editDocument.rate) ? 'Export EDL (non-drop)' : 'Export EDL',
			about: 'CMX 3600: cuts, dissolves, wipe codes'
		}
	]);

	function rename(name: string) {
		if (name.trim() && name.trim() !== edit.name) editDocument.change({ name: name.trim() });
	}

	async function history() {
		await editDocument.saver.flush();
		const params = { path: { edit_id: edit.id } };
		return request(api.GET('/api/edits/{edit_id}/history', { params }));
	}

	/** Download the edit in an open format, and say what the format leaves out. */
	async function exported({ kind, drop }: Export) {
		exporting = false;
		const path = { params: { path: { edit_id: edit.id, kind } } };
		try {
			const notes = await editDocument.saver.afterSaving(() =>
				request(api.GET('/api/edits/{edit_id}/export/{kind}/notes', path))
			);
			if (!notes) {
				toast.error(`Not exported: there are unsaved changes. ${editDocument.saver.problem}`);
				return;
			}
			const link = document.createElement('a');
			link.href = `/api/edits/${edit.id}/export/${kind}${drop ? '?drop_frame=true' : ''}`;
			link.download = `${edit.name}.${kind}`;
			link.click();
			if (notes.notes.length) toast.info(`Exported ${edit.name}.${kind}. ${notes.notes.join(' ')}`);
		} catch (error) {
			toast.error(error);
		}
	}

	let problems = $derived(
		edit.cuts.flatMap(({ worst }, n) =>
			worst && worst.status !== 'ok'
				? [
						{
							status: worst.status as 'warning' | 'failed',
							text: `Cut ${n + 1}, ${checkName(worst.id)}: ${worst.message}`
						}
					]
				: []
		)
	);
</script>

<TopBar>
	<TextField
		label="Edit name"
		class="w-40 font-semibold min-[1200px]:w-56"
		maxlength={200}
		value={edit.name}
		onchange={rename}
	/>
	<span class="figures small text-quiet">
		{edit.width}×{edit.height}, {rateText(edit.rate)} fps, {timecode(
			edit.frame_count,
			editDocument.rate
		)}
	</span>
	<span class="flex-1"></span>
	<SavedState saver={editDocument.saver} />
	<Button
		disabled={!edit.undo_label}
		tip={edit.undo_label ? `Undo: ${edit.undo_label} (Ctrl Z)` : 'Nothing to undo'}
		onclick={() => editDocument.undo()}>Undo</Button
	>
	<Button
		disabled={!edit.redo_label}
		tip={edit.redo_label ? `Redo: ${edit.redo_label} (Ctrl Shift Z)` : 'Nothing to redo'}
		onclick={() => editDocument.redo()}>Redo</Button
	>
	<HistoryList
		of="this edit"
		version="{edit.id} {edit.version}"
		read={history}
		onchoose={(number) => goToStep(editDocument, number)}
		start="Before these steps"
	/>
	<Popover label="Export" placement="bottom-end" bind:open={exporting}>
		{#snippet button(attributes)}<Button {...attributes}>Export…</Button>{/snippet}
		<ul class="flex flex-col gap-1">
			{#each exports as each (each.name)}
				<li>
					<Button kind="bare" class="w-full justify-between gap-6" onclick={() => exported(each)}
						><span class="text-ink">{each.name}</span><span class="small">{each.about}</span
						></Button
					>
				</li>
			{/each}
		</ul>
	</Popover>
	<Button kind="strong" onclick={() => (rendering = true)}>Render…</Button>
</TopBar>
<RenderDialog
	bind:open={rendering}
	subject={{ edit: edit.id }}
	width={edit.width}
	height={edit.height}
	{problems}
	afterSaving={(work) => editDocument.saver.afterSaving(work)}
	onrendering={() => goto('/renders')}
/>
