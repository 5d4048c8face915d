<script lang="ts">
	// Drop files here, or open the file chooser.
	import { Dropzone } from 'flowbite-svelte';
	import Button from '$lib/ui/Button.svelte';
	import { openDialogs } from '$lib/ui/openDialogs.svelte';

	type Props = { label?: string; onfiles: (files: File[]) => void };
	let { label = 'Drop clips here', onfiles }: Props = $props();

	const id = $props.id();
	let zone: HTMLElement;
	/** How many elements the files have entered and not left: more than none, and they are over the screen. */
	let entered = $state(0);

	/** Files may be dropped anywhere on the screen, or in the dialog where one is open. */
	function isMeant(event: DragEvent): boolean {
		if (!event.dataTransfer?.types.includes('Files')) return false;
		return !openDialogs.top || zone.closest('dialog') !== null;
	}

	function drop(event: DragEvent) {
		entered = 0;
		if (!isMeant(event)) return;
		event.preventDefault();
		onfiles([...(event.dataTransfer?.files ?? [])]);
	}
</script>

<svelte:window
	ondragenter={(event) => (entered += isMeant(event) ? 1 : 0)}
	ondragleave={() => (entered = Math.max(0, entered - 1))}
	ondrop={drop}
/>
<div class="relative" bind:this={zone}>
	<Dropzone
		{id}
		multiple
		accept="video/*,image/*,.mkv,.avi,.mov"
		aria-label="Clips"
		class="pr-36 {entered ? 'border-seam bg-surround' : ''}"
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
