<script lang="ts">
	import '../app.css';
	import Toasts from '$lib/ui/Toasts.svelte';

	let { children } = $props();
</script>

<div class="flex h-screen flex-col overflow-hidden">
	{@render children()}
</div>
<Toasts />
