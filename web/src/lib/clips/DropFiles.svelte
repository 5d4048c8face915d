<script lang="ts">
	// Drop files here, or open the file chooser.
	import { Dropzone } from 'flowbite-svelte';
	import Button from '$lib/ui/Button.svelte';

	type Props = { label?: string; onfiles: (files: File[]) => void };
	let { label = 'Drop clips here', onfiles }: Props = $props();

	const id = $props.id();
	let over = $state(false);
</script>

<div class="relative">
	<Dropzone
		{id}
		multiple
		accept="video/*,image/*,.mkv,.avi,.mov"
		aria-label="Clips"
		class="pr-36 {over ? 'border-seam bg-surround' : ''}"
		onDragOver={() => (over = true)}
		onDrop={(event) => {
			over = false;
			onfiles([...(event.dataTransfer?.files ?? [])]);
		}}
		onChange={(event) => {
			const field = event.currentTarget;
			onfiles([...(field.files ?? [])]);
			field.value = '';
		}}
	>
		<span>{label}</span>
		<span class="small text-quiet">MP4, MOV, MKV, WebM, AVI, GIF, stills and PNG sequences</span>
	</Dropzone>
	<span class="absolute top-1/2 right-4 -translate-y-1/2"
		><Button onclick={() => document.getElementById(id)?.click()}>Choose files…</Button></span
	>
</div>
