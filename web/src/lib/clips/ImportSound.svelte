<script lang="ts">
	// A button that imports a sound file.
	import type { Clip } from '$lib/api/client';
	import { upload } from '$lib/api/upload';
	import Button from '$lib/ui/Button.svelte';
	import { toast } from '$lib/ui/toast.svelte';

	type Props = {
		/** What the button says, and what the field of files is called. */
		label: string;
		field: string;
		low?: boolean;
		onimport: (clip: Clip) => void;
	};
	let { label, field, low = false, onimport }: Props = $props();

	let picker = $state<HTMLInputElement>();
	let sending = $state(false);

	async function send(files: FileList | null) {
		const file = files?.[0];
		if (!file) return;
		sending = true;
		try {
			const clip = await upload({ name: file.name, files: [file], rate: '25' }, () => {}).done;
			if (!clip.has_sound) throw new Error(`${file.name} has no sound. Choose another file.`);
			onimport(clip);
		} catch (error) {
			toast.error(error);
		} finally {
			sending = false;
		}
	}
</script>

<Button {low} disabled={sending} onclick={() => picker?.click()}
	>{sending ? 'Importing…' : label}</Button
>
<input
	bind:this={picker}
	type="file"
	accept="audio/*,.wav,.mp3,.aac,.m4a,.flac,.ogg"
	hidden
	aria-label={field}
	onchange={(event) => {
		void send(event.currentTarget.files);
		event.currentTarget.value = '';
	}}
/>
