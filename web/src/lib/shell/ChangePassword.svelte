<script lang="ts">
	// The dialog for another password.
	import { api, request } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import { toast } from '$lib/ui/toast.svelte';

	let { open = $bindable(false) }: { open: boolean } = $props();

	let current = $state('');
	let wanted = $state('');
	let repeated = $state('');
	let problem = $state('');
	let differs = $derived(repeated !== '' && repeated !== wanted);

	async function change(event: SubmitEvent) {
		event.preventDefault();
		problem = '';
		try {
			await request(api.PUT('/api/session/password', { body: { current, new: wanted } }));
			open = false;
			current = wanted = repeated = '';
			toast.info('Password changed. Other browsers have to sign in again.');
		} catch (error) {
			problem = (error as Error).message;
		}
	}
</script>

<Dialog bind:open title="Change password" size="xs">
	<form class="flex flex-col gap-4" onsubmit={change}>
		<label class="flex flex-col gap-1">
			Current password
			<TextField
				label="Current password"
				type="password"
				autocomplete="current-password"
				bind:value={current}
				class="w-full"
				autofocus
			/>
		</label>
		<label class="flex flex-col gap-1">
			New password, at least 10 characters
			<TextField
				label="New password"
				type="password"
				autocomplete="new-password"
				bind:value={wanted}
				class="w-full"
			/>
		</label>
		<label class="flex flex-col gap-1">
			New password again
			<TextField
				label="New password again"
				type="password"
				autocomplete="new-password"
				bind:value={repeated}
				invalid={differs}
				class="w-full"
			/>
		</label>
		{#if differs || problem}
			<p class="text-failed" role="alert">
				<span aria-hidden="true">▮</span>
				{differs ? 'The two new passwords differ.' : problem}
			</p>
		{/if}
		<div class="flex justify-end gap-2">
			<Button onclick={() => (open = false)}>Cancel</Button>
			<Button
				kind="strong"
				type="submit"
				disabled={!current || wanted.length < 10 || repeated !== wanted}>Change password</Button
			>
		</div>
	</form>
</Dialog>
