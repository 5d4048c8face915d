<script lang="ts">
	// Keeps an error of a script to the part of the page in which it happened, with a way on.
	import type { Snippet } from 'svelte';
	import Button from './Button.svelte';

	type Props = {
		/** What is inside, as it is called: "The lanes". */
		name?: string;
		/** Whether it is the whole page: then only loading it again helps. */
		whole?: boolean;
		children: Snippet;
	};
	let { name = 'This page', whole = false, children }: Props = $props();
</script>

<svelte:boundary onerror={(error) => console.error(name, error)}>
	{@render children()}
	{#snippet failed(error, reset)}
		<div class="m-auto flex max-w-lg flex-col items-center gap-3 p-6 text-center" role="alert">
			<p>
				<span class="text-failed" aria-hidden="true">▮</span>
				{name} cannot be shown because of an error in the program. What was saved is kept.
			</p>
			<p class="small text-quiet">{error instanceof Error ? error.message : String(error)}</p>
			<div class="flex gap-2">
				{#if !whole}<Button onclick={reset}>Try again</Button>{/if}
				<Button onclick={() => location.reload()}>Reload</Button>
				<Button href="/">All edits</Button>
			</div>
		</div>
	{/snippet}
</svelte:boundary>
