<script lang="ts">
	// Make an edit from clips: drop files, watch them arrive, name the edit.
	import { goto } from '$app/navigation';
	import { api, need } from '$lib/api/client';
	import { notices } from '$lib/ui/notices.svelte';
	import { counted, rateText } from '$lib/ui/numbers';
	import Sheet from '$lib/ui/Sheet.svelte';
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
		[1080, 1920, 'upright']
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

<Sheet bind:open title="New edit" size="md" outsideclose={false}>
	<div class="flex flex-col gap-3">
		<label class="flex items-center gap-3">
			<span class="w-12 text-quiet">name</span>
			<input class="text-field flex-1" placeholder="New edit" maxlength="200" bind:value={name} />
		</label>
		<div class="flex items-center gap-3">
			<label class="flex items-center gap-3">
				<span class="w-12 text-quiet">size</span>
				<select class="choice" bind:value={size}>
					<option value="">as the first clip</option>
					{#each SIZES as [width, height, shape] (shape + height)}
						<option value="{width}x{height}">{width}×{height}, {shape}</option>
					{/each}
				</select>
			</label>
			<label class="flex items-center gap-3">
				<span class="text-quiet">rate</span>
				<select class="choice" bind:value={rate}>
					<option value="">as the first clip</option>
					{#each RATES as each (each)}<option value={each}>{rateText(each)} a second</option>{/each}
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
					Is it a finished video?
					<button class="plain-button" onclick={() => (finding = true)}>Find its cuts</button>
				</p>
			{/if}
		{/if}
		<div class="flex items-center justify-between" hidden={finding}>
			<p class="text-quiet">
				{#if uploads.clips.length}
					{counted(uploads.clips.length, 'clip')}, in this order.
				{:else}
					Two clips make a cut.
				{/if}
			</p>
			<button class="plain-button strong" disabled={!ready} onclick={make}>Make the edit</button>
		</div>
	</div>
</Sheet>
