<script lang="ts">
	import '../app.css';
	import Notices from '$lib/ui/Notices.svelte';

	let { children } = $props();
</script>

<div class="flex h-screen flex-col overflow-hidden">
	{@render children()}
</div>
<Notices />
