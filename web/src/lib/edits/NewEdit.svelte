<script lang="ts">
	// Make an edit from clips: drop files, watch them arrive, name the edit.
	import { Modal } from 'flowbite-svelte';
	import { goto } from '$app/navigation';
	import { api, need } from '$lib/api/client';
	import { notices } from '$lib/ui/notices.svelte';
	import { counted } from '$lib/ui/numbers';
	import CutFinder from './CutFinder.svelte';
	import DropFiles from './DropFiles.svelte';
	import UploadList from './UploadList.svelte';
	import { Uploads } from './uploads.svelte';

	let { open = $bindable() }: { open: boolean } = $props();

	const uploads = new Uploads();
	let name = $state('');
	let making = $state(false);
	let finding = $state(false);
	let ready = $derived(uploads.clips.length > 0 && !uploads.busy && !making);

	function close() {
		open = false;
		finding = false;
		uploads.clear();
	}

	async function make() {
		making = true;
		try {
			const clips = uploads.clips.map(({ id }) => id);
			const body = { name: name.trim() || 'New edit', clips };
			const edit = await need(api.POST('/api/edits', { body }));
			close();
			await goto(`/edits/${edit.id}`);
		} catch (error) {
			notices.wrong(error);
		} finally {
			making = false;
		}
	}
</script>

<Modal
	bind:open
	title="New edit"
	size="md"
	outsideclose={false}
	class="border border-line bg-panel! text-ink!"
	headerClass="p-3! text-[15px]!"
	bodyClass="p-3!"
>
	<div class="flex flex-col gap-3">
		<label class="flex items-center gap-3">
			<span class="w-12 text-quiet">name</span>
			<input class="text-field flex-1" placeholder="New edit" maxlength="200" bind:value={name} />
		</label>
		<DropFiles onfiles={(files) => void uploads.add(files)} />
		<UploadList {uploads} />
		{#if uploads.clips.length === 1 && uploads.clips[0] && !uploads.clips[0].still}
			{@const clip = uploads.clips[0]}
			{#if finding}
				<CutFinder {clip} {name} ondone={close} />
			{:else}
				<p class="text-quiet">
					Is it a finished video?
					<button class="plain-button" onclick={() => (finding = true)}>Find its cuts</button>
				</p>
			{/if}
		{/if}
		<div class="flex items-center justify-between" hidden={finding}>
			<p class="text-quiet">
				{#if uploads.clips.length}
					{counted(uploads.clips.length, 'clip')}, in this order. Size and rate come from the first.
				{:else}
					Two clips make a cut.
				{/if}
			</p>
			<button class="plain-button strong" disabled={!ready} onclick={make}>Make the edit</button>
		</div>
	</div>
</Modal>
