<script lang="ts">
	// Asks before anything unsaved would be lost by leaving: another page, or the closing of the tab.
	import { beforeNavigate, goto } from '$app/navigation';
	import Button from '$lib/ui/Button.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';
	import type { Saver } from './saver.svelte';

	let { saver, what }: { saver: Saver; what: string } = $props();

	let target = $state.raw<URL | null>(null);
	let leaving = false;

	beforeNavigate((navigation) => {
		if (saver.isSaved || leaving) return;
		navigation.cancel();
		if (navigation.willUnload) saver.lastAttempt();
		else if (navigation.to) void follow(navigation.to.url);
	});

	async function follow(url: URL) {
		if (await saver.flush()) await goto(url);
		else target = url;
	}

	async function leave() {
		leaving = true;
		saver.end();
		if (target) await goto(target);
	}

	async function retry() {
		const url = target;
		target = null;
		if (url) await follow(url);
	}
</script>

<Dialog
	open={target !== null}
	title="Leave without saving?"
	size="xs"
	onclose={() => (target = null)}
>
	<p>
		{what} has changes that are not saved{saver.since
			? `, since ${saver.since.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}`
			: ''}. {saver.problem}
	</p>
	<div class="mt-3 flex justify-end gap-2">
		<Button onclick={leave}>Leave and lose them</Button>
		<Button onclick={() => (target = null)}>Stay</Button>
		<Button kind="strong" onclick={retry}>Try again</Button>
	</div>
</Dialog>
