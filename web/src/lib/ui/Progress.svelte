<script lang="ts">
	// How much of something long is done.
	import { Progressbar } from 'flowbite-svelte';

	let { label, done, of }: { label: string; done: number; of: number } = $props();

	let percent = $derived(of > 0 ? Math.min(100, (100 * done) / of) : 0);
</script>

<Progressbar
	progress={percent}
	size="h-2"
	role="progressbar"
	aria-label={label}
	aria-valuemin={0}
	aria-valuemax={100}
	aria-valuenow={Math.round(percent)}
/>
