<script lang="ts">
	import '../app.css';
	import { QueryClient, QueryClientProvider } from '@tanstack/svelte-query';
	import { ThemeProvider } from 'flowbite-svelte';
	import { goto } from '$app/navigation';
	import { needsSignIn, signInAddress } from '$lib/shell/session';
	import { api } from '$lib/api/client';
	import { theme } from '$lib/ui/theme';
	import Toasts from '$lib/shell/Toasts.svelte';

	let { children } = $props();

	api.use({
		onResponse({ response }) {
			if (needsSignIn(response)) void goto(signInAddress(location), { replaceState: true });
		}
	});

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
