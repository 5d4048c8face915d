<script lang="ts">
	// A stored document that cannot be read: why, and a way to its raw form.
	import Button from './Button.svelte';

	let { problem, href, name }: { problem: string; href: string; name: string } = $props();
</script>

<span class="text-failed"><span aria-hidden="true">▮</span> Cannot be read: {problem}</span>
<Button {href} download="{name}.json" tip="Download the stored document">Download document</Button>
