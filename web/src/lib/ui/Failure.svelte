<script lang="ts">
	// Shown in place of a screen that cannot be loaded: what happened, and what to do.
	import Button from './Button.svelte';

	let { error }: { error: unknown } = $props();
	let text = $derived(
		error instanceof Error
			? error.message
			: ((error as { message?: string })?.message ?? String(error))
	);
</script>

<div class="m-auto flex max-w-lg flex-col items-center gap-3 p-10 text-center" role="alert">
	<h1 class="text-[15px]"><span class="text-failed" aria-hidden="true">▮</span> {text}</h1>
	<div class="flex gap-2">
		<Button onclick={() => location.reload()}>Try again</Button>
		<Button href="/">All edits</Button>
	</div>
</div>
