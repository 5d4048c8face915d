<script lang="ts">
	// The dialog that creates an edit: name, size, rate and clips.
	import Button from '$lib/ui/Button.svelte';
	import { goto } from '$app/navigation';
	import { api, request, type Clip } from '$lib/api/client';
	import { toast } from '$lib/ui/toast.svelte';
	import { counted, rateText } from '$lib/ui/numbers';
	import Select from '$lib/ui/Select.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';
	import CutFinder from './CutFinder.svelte';
	import DropFiles from './DropFiles.svelte';
	import UploadList from './UploadList.svelte';
	import { Uploads, USUAL_RATE } from './uploads.svelte';

	/** `given` is a clip whose cuts are detected, where the dialog is about that one. */
	type Props = { open: boolean; given?: Clip | null };
	let { open = $bindable(), given = null }: Props = $props();

	const SIZES = [
		[1280, 720, 'wide'],
		[1920, 1080, 'wide'],
		[3840, 2160, 'wide'],
		[1080, 1080, 'square'],
		[1080, 1350, 'portrait'],
		[1080, 1920, 'vertical']
	] as const;
	const RATES = ['24000/1001', '24', '25', '30000/1001', '30', '50', '60000/1001', '60'];
	const MATCH = { value: '', name: 'Match first clip' };
	const SIZE_ITEMS = [
		MATCH,
		...SIZES.map(([width, height, format]) => ({
			value: `${width}x${height}`,
			name: `${width}×${height}, ${format}`
		}))
	];
	const RATE_ITEMS = [
		MATCH,
		...RATES.map((each) => ({ value: each, name: `${rateText(each)} fps` }))
	];
	const uploads = new Uploads();
	/** The name, once one has been typed. */
	let typed = $state<string | null>(null);
	let making = $state(false);
	let finding = $state(false);
	let size = $state('');
	let rate = $state('');
	let clips = $derived(given ? [given] : uploads.clips);
	let single = $derived(clips.length === 1 ? clips[0] : undefined);
	/** That of the first clip, until another is typed. */
	let name = $derived(typed ?? clips[0]?.name ?? '');
	let ready = $derived(clips.length > 0 && !uploads.busy && !making);

	function close() {
		open = false;
		finding = false;
		typed = null;
		uploads.clear();
	}

	async function make() {
		making = true;
		try {
			const [width = 0, height = 0] = size.split('x').map(Number);
			const body = {
				name: name.trim() || 'New edit',
				clips: clips.map(({ id }) => id),
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
			<TextField
				label="Name"
				class="w-80"
				placeholder="New edit"
				maxlength={200}
				bind:value={() => name, (next) => (typed = next)}
			/>
		</label>
		<div class="flex flex-wrap items-center gap-3">
			<span class="w-12 text-quiet">Size</span>
			<Select label="Size" value={size} items={SIZE_ITEMS} onchange={(next) => (size = next)} />
			<span class="text-quiet">Rate</span>
			<Select label="Rate" value={rate} items={RATE_ITEMS} onchange={(next) => (rate = next)} />
		</div>
		{#if !given}
			<DropFiles
				onfiles={(files) => void uploads.add(files, undefined, () => rate || USUAL_RATE)}
			/>
		{/if}
		<UploadList {uploads} />
		{#if single && !single.still}
			{#if finding || given}
				<CutFinder clip={single} name={name.trim() || 'New edit'} ondone={close} />
			{:else}
				<p class="flex items-center gap-2 text-quiet">
					Is this a finished video?
					<Button onclick={() => (finding = true)}>Detect cuts</Button>
				</p>
			{/if}
		{/if}
		{#if !finding && !given}
			<div class="flex items-center justify-between">
				<p class="text-quiet">
					{#if clips.length}
						{counted(clips.length, 'clip')}, in this order
					{:else}
						Add at least two clips to make a cut
					{/if}
				</p>
				<Button kind="strong" disabled={!ready} onclick={make}>Create edit</Button>
			</div>
		{/if}
	</div>
</Dialog>
