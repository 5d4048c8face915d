<script lang="ts" module>
	import { Uploads } from './uploads.svelte';

	/** Sounds on their way: they go on where the screen is left, and are listed under Activity. */
	const imports = new Uploads();
</script>

<script lang="ts">
	// A button that imports a sound file, with its progress.
	import type { Clip } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import Progress from '$lib/ui/Progress.svelte';
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
	let sent = $state<number | null>(null);
	let entry = $derived(imports.list.find(({ id }) => id === sent));
	let isSending = $derived(!!entry && ['waiting', 'sending', 'reading'].includes(entry.state));

	async function send(files: FileList | null) {
		const file = files?.[0];
		if (!file) return;
		const done = imports.add([file]);
		const id = imports.list.at(-1)?.id ?? null;
		sent = id;
		await done;
		const ended = imports.list.find((each) => each.id === id);
		// One that was cancelled is not in the list any more.
		if (!ended) return;
		imports.remove(ended.id);
		if (!ended.clip) toast.error(ended.message);
		else if (ended.clip.has_sound) onimport(ended.clip);
		else toast.error(`${file.name} has no sound. Choose another file.`);
	}
</script>

{#if isSending && entry}
	{@const { id, share, state } = entry}
	<span class="small text-quiet">{state === 'reading' ? 'Reading' : 'Importing'}</span>
	<span class="w-20"><Progress label="Import of {entry.name}" done={share} of={1} /></span>
	<Button kind="bare" {low} onclick={() => imports.remove(id)}>Cancel</Button>
{:else}
	<Button {low} onclick={() => picker?.click()}>{label}</Button>
{/if}
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
