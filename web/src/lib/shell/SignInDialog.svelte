<script lang="ts">
	// Opens over any page once the session has ended: what is on the page stays, and goes on afterwards.
	import { useQueryClient } from '@tanstack/svelte-query';
	import { page } from '$app/state';
	import Dialog from '$lib/ui/Dialog.svelte';
	import { SIGN_IN } from './session';
	import { signIn } from './signIn.svelte';
	import SignInForm from './SignInForm.svelte';

	const client = useQueryClient();
	let open = $derived(signIn.isNeeded && page.url.pathname !== SIGN_IN);
</script>

<Dialog {open} title="Sign in to go on" size="xs" permanent>
	<p class="mb-4">
		Your session has ended. What you changed since is kept on this page, and is saved once you have
		signed in.
	</p>
	{#if open}<SignInForm onsigned={() => client.invalidateQueries()} />{/if}
</Dialog>
