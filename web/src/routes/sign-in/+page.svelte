<script lang="ts">
	// Signing in, where the server has accounts.
	import { useQueryClient } from '@tanstack/svelte-query';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { returnAddress, sessionQuery } from '$lib/shell/session';
	import SignInForm from '$lib/shell/SignInForm.svelte';

	const client = useQueryClient();
	const session = sessionQuery();
	$effect(() => {
		// Nobody has to sign in here, or somebody is: there is nothing to do on this page.
		if (session.data && (!session.data.required || session.data.name)) void leave();
	});

	const leave = () => goto(returnAddress(page.url.searchParams), { replaceState: true });

	async function signed() {
		// Nothing of what was loaded before belongs to whoever signs in now.
		client.clear();
		await leave();
	}
</script>

<svelte:head><title>Sign in, Idle Shimmer</title></svelte:head>
<main class="m-auto w-80 max-w-full p-6">
	<h1 class="mb-4 flex items-center gap-2 text-[15px] font-semibold">
		<img src="/mark.svg" alt="" class="h-6 w-6" />Sign in to Idle Shimmer
	</h1>
	<SignInForm onsigned={signed} />
	<p class="small mt-4 text-quiet">
		Accounts are added on the server:<br /><code>idle-shimmer user add NAME</code>
	</p>
</main>
