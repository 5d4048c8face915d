<script lang="ts">
	// A stored document that cannot be read: why, and a way to its raw form.
	let { problem, href, name }: { problem: string; href: string; name: string } = $props();
</script>

<span class="text-failed"><span aria-hidden="true">▮</span> Cannot be read: {problem}</span>
<a class="plain-button" {href} download="{name}.json" title="Download the stored document"
	>Download document</a
>
