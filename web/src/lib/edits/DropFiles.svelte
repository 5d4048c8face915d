<script lang="ts">
	// Drop files here, or open the file chooser.
	let { onfiles }: { onfiles: (files: File[]) => void } = $props();

	let over = $state(false);
	let field: HTMLInputElement;

	function dropped(event: DragEvent) {
		event.preventDefault();
		over = false;
		onfiles([...(event.dataTransfer?.files ?? [])]);
	}
</script>

<button
	type="button"
	class="flex h-24 w-full flex-col items-center justify-center gap-1 rounded-md border border-dashed {over
		? 'border-seam bg-surround'
		: 'border-quiet'}"
	ondragover={(event) => {
		event.preventDefault();
		over = true;
	}}
	ondragleave={() => (over = false)}
	ondrop={dropped}
	onclick={() => field.click()}
>
	<span>Drop clips here, or choose files</span>
	<span class="small text-quiet">MP4, MOV, MKV, WebM, AVI, GIF, stills and PNG sequences</span>
</button>
<input
	bind:this={field}
	type="file"
	multiple
	accept="video/*,image/*,.mkv,.avi,.mov"
	class="hidden"
	aria-label="Clips"
	onchange={() => {
		onfiles([...(field.files ?? [])]);
		field.value = '';
	}}
/>
