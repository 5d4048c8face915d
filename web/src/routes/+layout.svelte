<script lang="ts">
	import '../app.css';
	import { onMount } from 'svelte';
	import { QueryClient, QueryClientProvider } from '@tanstack/svelte-query';
	import { ThemeProvider } from 'flowbite-svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { hasBeenAnswered, whenSignInIsNeeded } from '$lib/api/signedFetch';
	import { signInAddress } from '$lib/shell/session';
	import { signIn } from '$lib/shell/signIn.svelte';
	import SignInDialog from '$lib/shell/SignInDialog.svelte';
	import Boundary from '$lib/ui/Boundary.svelte';
	import { retryPictures } from '$lib/ui/retryPictures';
	import { theme } from '$lib/ui/theme';
	import { openDialogs } from '$lib/ui/openDialogs.svelte';
	import Toasts from '$lib/ui/Toasts.svelte';

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

	onMount(() => retryPictures(document));

	const client = new QueryClient({
		// A poll survives a failure: the next one comes in its turn.
		defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } }
	});
</script>

<!-- A file that is dropped where nothing takes it does not replace the page. -->
<svelte:window
	ondragover={(event) => {
		if (event.dataTransfer?.types.includes('Files')) event.preventDefault();
	}}
	ondrop={(event) => {
		if (event.dataTransfer?.types.includes('Files')) event.preventDefault();
	}}
/>
<QueryClientProvider {client}>
	<ThemeProvider {theme}>
		<div class="flex h-screen flex-col overflow-hidden">
			<Boundary whole>{@render children()}</Boundary>
		</div>
		{#if !openDialogs.top}<Toasts />{/if}
		<SignInDialog />
	</ThemeProvider>
</QueryClientProvider>
