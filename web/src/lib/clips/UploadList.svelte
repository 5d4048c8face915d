<script lang="ts">
	import Button from '$lib/ui/Button.svelte';
	// The files of an upload queue, each with its progress or result.
	import { counted } from '$lib/ui/numbers';
	import Progress from '$lib/ui/Progress.svelte';
	import type { Uploads } from './uploads.svelte';

	let { uploads }: { uploads: Uploads } = $props();

	const MEGABYTE = 1e6;

	function size(bytes: number): string {
		return bytes >= MEGABYTE
			? `${(bytes / MEGABYTE).toFixed(1)} MB`
			: `${Math.ceil(bytes / 1000)} kB`;
	}
</script>

<ul class="flex flex-col gap-1" aria-label="Files">
	{#each uploads.list as file (file.id)}
		<li
			class="grid grid-cols-[1fr_180px_auto] items-center gap-3 rounded-md bg-surround px-3 py-1.5"
		>
			<span class="min-w-0">
				<span class="block truncate">{file.name}</span>
				{#if file.note}<span class="small block text-quiet">{file.note}</span>{/if}
				{#if file.state === 'failed'}
					<span class="small block text-failed"
						><span aria-hidden="true">▮</span> {file.message}</span
					>
				{/if}
			</span>
			<span class="figures small text-quiet">
				{#if file.state === 'sending'}
					<Progress label="Sent of {file.name}" done={file.share} of={1} />
					{size(file.share * file.bytes)} of {size(file.bytes)}
				{:else if file.state === 'reading'}
					Reading frames…
				{:else if file.state === 'done' && file.clip}
					✓ {file.clip.width}×{file.clip.height}, {counted(file.clip.frame_count, 'frame')}
				{:else if file.state === 'waiting'}
					Queued, {size(file.bytes)}
				{:else}
					Not imported
				{/if}
			</span>
			<Button kind="bare" aria-label="Remove {file.name}" onclick={() => uploads.remove(file.id)}
				>✕</Button
			>
		</li>
	{/each}
</ul>
