<script lang="ts">
	// The dialog that creates an edit: name, size, rate and clips.
	import { goto } from '$app/navigation';
	import { api, request } from '$lib/api/client';
	import { toast } from '$lib/ui/toast.svelte';
	import { counted, rateText } from '$lib/ui/numbers';
	import Dialog from '$lib/ui/Dialog.svelte';
	import CutFinder from './CutFinder.svelte';
	import DropFiles from './DropFiles.svelte';
	import UploadList from './UploadList.svelte';
	import { Uploads, USUAL_RATE } from './uploads.svelte';

	let { open = $bindable() }: { open: boolean } = $props();

	const SIZES = [
		[1280, 720, 'wide'],
		[1920, 1080, 'wide'],
		[3840, 2160, 'wide'],
		[1080, 1080, 'square'],
		[1080, 1350, 'portrait'],
		[1080, 1920, 'vertical']
	] as const;
	const RATES = ['24000/1001', '24', '25', '30000/1001', '30', '50', '60000/1001', '60'];
	const uploads = new Uploads();
	let name = $state('');
	let making = $state(false);
	let finding = $state(false);
	let size = $state('');
	let rate = $state('');
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
			const [width = 0, height = 0] = size.split('x').map(Number);
			const body = {
				name: name.trim() || 'New edit',
				clips,
				size: size ? { width, height } : null,
				rate: rate || null
			};
			const edit = await request(api.POST('/api/edits', { body }));
			close();
			await goto(`/edits/${edit.id}`);
		} catch (error) {
			toast.error(error);
		} finally {
			making = false;
		}
	}
</script>

<Dialog bind:open title="New edit" size="md" outsideclose={false}>
	<div class="flex flex-col gap-3">
		<label class="flex items-center gap-3">
			<span class="w-12 text-quiet">Name</span>
			<input class="text-field flex-1" placeholder="New edit" maxlength="200" bind:value={name} />
		</label>
		<div class="flex items-center gap-3">
			<label class="flex items-center gap-3">
				<span class="w-12 text-quiet">Size</span>
				<select class="choice" bind:value={size}>
					<option value="">Match first clip</option>
					{#each SIZES as [width, height, format] (format + height)}
						<option value="{width}x{height}">{width}×{height}, {format}</option>
					{/each}
				</select>
			</label>
			<label class="flex items-center gap-3">
				<span class="text-quiet">Rate</span>
				<select class="choice" bind:value={rate}>
					<option value="">Match first clip</option>
					{#each RATES as each (each)}<option value={each}>{rateText(each)} fps</option>{/each}
				</select>
			</label>
		</div>
		<DropFiles onfiles={(files) => void uploads.add(files, undefined, () => rate || USUAL_RATE)} />
		<UploadList {uploads} />
		{#if uploads.clips.length === 1 && uploads.clips[0] && !uploads.clips[0].still}
			{@const clip = uploads.clips[0]}
			{#if finding}
				<CutFinder {clip} {name} ondone={close} />
			{:else}
				<p class="text-quiet">
					Is this a finished video?
					<button class="plain-button" onclick={() => (finding = true)}>Detect cuts</button>
				</p>
			{/if}
		{/if}
		<div class="flex items-center justify-between" hidden={finding}>
			<p class="text-quiet">
				{#if uploads.clips.length}
					{counted(uploads.clips.length, 'clip')}, in this order
				{:else}
					Add at least two clips to make a cut
				{/if}
			</p>
			<button class="plain-button strong" disabled={!ready} onclick={make}>Create edit</button>
		</div>
	</div>
</Dialog>
