<script lang="ts">
	// How much space clips and renders take, and what can be freed.
	import { createQuery, useQueryClient } from '@tanstack/svelte-query';
	import { api, request } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import Confirm from '$lib/ui/Confirm.svelte';
	import { counted, sizeText } from '$lib/ui/numbers';
	import { toast } from '$lib/ui/toast.svelte';

	const LOW_BYTES = 2e9;
	const client = useQueryClient();
	const storage = createQuery(() => ({
		// Changes together with the edits.
		queryKey: ['edits', 'storage'],
		queryFn: () => request(api.GET('/api/storage'))
	}));
	let asking = $state(false);

	async function deleteUnused() {
		try {
			const deleted = await request(api.DELETE('/api/clips/unused'));
			toast.info(`Deleted ${counted(deleted.clips, 'clip')}, ${sizeText(deleted.size_bytes)}.`);
			await client.invalidateQueries({ queryKey: ['edits', 'storage'] });
		} catch (error) {
			toast.error(error);
		}
	}
</script>

{#if storage.data}
	{@const { media_bytes, renders_bytes, free_bytes, unused_clips, unused_bytes } = storage.data}
	<div
		class="small mt-4 flex min-h-7 flex-wrap items-center gap-x-4 text-quiet"
		aria-label="Storage"
		role="group"
	>
		<span>Clips: {sizeText(media_bytes)}</span>
		<span>Renders: {sizeText(renders_bytes)}</span>
		<span class={free_bytes < LOW_BYTES ? 'text-warning' : ''}>Free: {sizeText(free_bytes)}</span>
		{#if unused_clips}
			<span>Not used in any edit: {counted(unused_clips, 'clip')}, {sizeText(unused_bytes)}</span>
			<Button kind="bare" onclick={() => (asking = true)}>Delete unused clips…</Button>
		{/if}
	</div>
	{#if asking}
		<Confirm
			title="Delete {counted(unused_clips, 'unused clip')}?"
			text="This frees {sizeText(
				unused_bytes
			)}. No edit, deleted edit, recipe or unfinished render uses them. To use one again, import its file again."
			action="Delete unused clips"
			onconfirm={deleteUnused}
			onclose={() => (asking = false)}
		/>
	{/if}
{/if}
