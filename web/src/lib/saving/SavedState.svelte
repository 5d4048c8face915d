<script lang="ts">
	// Whether everything is saved; only what went wrong is announced.
	import Button from '$lib/ui/Button.svelte';
	import type { Saver } from './saver.svelte';

	let { saver }: { saver: Saver } = $props();

	let since = $derived(
		saver.since?.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' }) ?? ''
	);
</script>

{#if saver.state === 'failed'}
	<span class="text-failed" role="alert" data-testid="saved" title={saver.problem}
		><span aria-hidden="true">▮</span> Not saved since {since}. {saver.problem}</span
	>
{:else if saver.state === 'refused'}
	<span class="text-failed" role="alert" data-testid="saved" title={saver.problem}
		><span aria-hidden="true">▮</span> Not accepted. {saver.problem}</span
	>
	<Button
		tip="Go back to what was saved last"
		onclick={() => {
			saver.takeBack();
		}}>Take back</Button
	>
{:else if saver.state !== 'conflict'}
	<span class="text-quiet" data-testid="saved">{saver.isSaved ? 'Saved' : 'Saving…'}</span>
{/if}

<style>
	span[role='alert'] {
		display: -webkit-box;
		max-width: 250px;
		overflow: hidden;
		font-size: 12px;
		line-height: 1.25;
		white-space: normal;
		-webkit-box-orient: vertical;
		-webkit-line-clamp: 2;
		line-clamp: 2;
	}
</style>
