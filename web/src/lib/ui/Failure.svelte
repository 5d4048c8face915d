<script lang="ts">
	// Shown in place of a screen that cannot be loaded: what happened, and what to do.
	let { error }: { error: unknown } = $props();
	let text = $derived(error instanceof Error ? error.message : String(error));
</script>

<div class="m-auto flex max-w-lg flex-col items-center gap-3 p-10 text-center">
	<p class="text-[15px]"><span class="text-failed" aria-hidden="true">▮</span> {text}</p>
	<div class="flex gap-2">
		<button class="plain-button" onclick={() => location.reload()}>Try again</button>
		<a class="plain-button" href="/">All edits</a>
	</div>
</div>
