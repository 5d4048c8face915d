<script lang="ts">
	// Who is signed in, with the way out and to another password; nothing where there are no accounts.
	import { useQueryClient } from '@tanstack/svelte-query';
	import { goto } from '$app/navigation';
	import { api, request } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import Popover from '$lib/ui/Popover.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import ChangePassword from './ChangePassword.svelte';
	import { initials, SIGN_IN, sessionQuery } from './session';

	const client = useQueryClient();
	const session = sessionQuery();
	let open = $state(false);
	let changing = $state(false);

	async function signOut() {
		try {
			await request(api.DELETE('/api/session'));
			client.clear();
			await goto(SIGN_IN);
		} catch (error) {
			toast.error(error);
		}
	}
</script>

{#if session.data?.name}
	<Popover label="Account" placement="bottom-end" bind:open>
		{#snippet button(attributes)}
			<Button
				{...attributes}
				class="h-7 w-7 rounded-full px-0"
				aria-label="{initials(session.data?.name ?? '')}: account of {session.data?.name}"
				tip="Signed in as {session.data?.name}">{initials(session.data?.name ?? '')}</Button
			>
		{/snippet}
		<div class="flex w-44 flex-col">
			<p class="truncate px-1.5 pb-1 font-semibold">{session.data.name}</p>
			<Button
				kind="bare"
				class="justify-start"
				onclick={() => {
					open = false;
					changing = true;
				}}>Change password…</Button
			>
			<Button kind="bare" class="justify-start" onclick={signOut}>Sign out</Button>
		</div>
	</Popover>
	<ChangePassword bind:open={changing} />
{/if}
