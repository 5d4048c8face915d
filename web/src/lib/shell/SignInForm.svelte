<script lang="ts">
	// Name and password, for a page and for a dialog.
	import { api, request } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import { signIn } from './signIn.svelte';

	let { onsigned }: { onsigned: () => unknown } = $props();

	let name = $state('');
	let password = $state('');
	let problem = $state('');
	let waiting = $state(false);

	async function submit(event: SubmitEvent) {
		event.preventDefault();
		waiting = true;
		problem = '';
		try {
			await request(api.POST('/api/session', { body: { name, password } }));
			signIn.done();
			await onsigned();
		} catch (error) {
			problem = (error as Error).message;
			password = '';
		} finally {
			waiting = false;
		}
	}
</script>

<form class="flex flex-col gap-4" onsubmit={submit}>
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
</form>
