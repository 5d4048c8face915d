<script lang="ts">
	import '../app.css';
	import { QueryClient, QueryClientProvider } from '@tanstack/svelte-query';
	import { ThemeProvider } from 'flowbite-svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { hasBeenAnswered, whenSignInIsNeeded } from '$lib/api/signedFetch';
	import { signInAddress } from '$lib/shell/session';
	import { signIn } from '$lib/shell/signIn.svelte';
	import SignInDialog from '$lib/shell/SignInDialog.svelte';
	import { theme } from '$lib/ui/theme';
	import Toasts from '$lib/shell/Toasts.svelte';

	let { children } = $props();

	whenSignInIsNeeded(async () => {
		// A visitor has nothing to lose yet, and a page that could not be loaded has nothing to go on with.
		if (!hasBeenAnswered() || page.error) {
			await goto(signInAddress(location), { replaceState: true });
			return false;
		}
		await signIn.wait();
		return true;
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
		<SignInDialog />
	</ThemeProvider>
</QueryClientProvider>
