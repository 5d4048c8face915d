<script lang="ts">
	// Signing in, where the server has accounts.
	import { useQueryClient } from '@tanstack/svelte-query';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { returnAddress, sessionQuery } from '$lib/shell/session';
	import { api, request } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import TextField from '$lib/ui/TextField.svelte';

	const client = useQueryClient();
	const session = sessionQuery();
	$effect(() => {
		// Nobody has to sign in here, or somebody is: there is nothing to do on this page.
		if (session.data && (!session.data.required || session.data.name)) void leave();
	});

	const leave = () => goto(returnAddress(page.url.searchParams), { replaceState: true });

	let name = $state('');
	let password = $state('');
	let problem = $state('');
	let waiting = $state(false);

	async function signIn(event: SubmitEvent) {
		event.preventDefault();
		waiting = true;
		problem = '';
		try {
			await request(api.POST('/api/session', { body: { name, password } }));
			// Nothing of what was loaded before belongs to whoever signs in now.
			client.clear();
			await leave();
		} catch (error) {
			problem = (error as Error).message;
			password = '';
		} finally {
			waiting = false;
		}
	}
</script>

<svelte:head><title>Sign in, Idle Shimmer</title></svelte:head>
<main class="m-auto w-80 max-w-full p-6">
	<form class="flex flex-col gap-4" onsubmit={signIn}>
		<h1 class="flex items-center gap-2 text-[15px] font-semibold">
			<img src="/mark.svg" alt="" class="h-6 w-6" />Sign in to Idle Shimmer
		</h1>
		<label class="flex flex-col gap-1">
			Name
			<TextField label="Name" bind:value={name} autocomplete="username" autofocus class="w-full" />
		</label>
		<label class="flex flex-col gap-1">
			Password
			<TextField
				label="Password"
				type="password"
				bind:value={password}
				autocomplete="current-password"
				invalid={problem !== ''}
				class="w-full"
			/>
		</label>
		{#if problem}
			<p class="text-failed" role="alert"><span aria-hidden="true">▮</span> {problem}</p>
		{/if}
		<Button kind="strong" type="submit" disabled={waiting || !name || !password}
			>{waiting ? 'Signing in…' : 'Sign in'}</Button
		>
		<p class="small text-quiet">
			Accounts are added on the server:<br /><code>idle-shimmer user add NAME</code>
		</p>
	</form>
</main>
