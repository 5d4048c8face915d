<script lang="ts">
	import '../app.css';
	import { QueryClient, QueryClientProvider } from '@tanstack/svelte-query';
	import { ThemeProvider } from 'flowbite-svelte';
	import { theme } from '$lib/ui/theme';
	import Toasts from '$lib/ui/Toasts.svelte';

	let { children } = $props();

	const client = new QueryClient({
		// A poll survives a failure: the next one comes in its turn.
		defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } }
	});
</script>

<QueryClientProvider {client}>
	<ThemeProvider {theme}>
		<div class="flex h-screen flex-col overflow-hidden">
			{@render children()}
		</div>
		<Toasts />
	</ThemeProvider>
</QueryClientProvider>
