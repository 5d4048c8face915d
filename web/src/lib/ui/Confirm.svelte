<script lang="ts">
	// Asks before something that cannot be undone.
	import Button from './Button.svelte';
	import Dialog from './Dialog.svelte';

	type Props = {
		title: string;
		text: string;
		/** What is done: the text of the button. */
		action: string;
		onconfirm: () => void;
		onclose: () => void;
	};
	let { title, text, action, onconfirm, onclose }: Props = $props();

	let open = $state(true);
	$effect(() => {
		if (!open) onclose();
	});
</script>

<Dialog bind:open {title} size="xs">
	<p>{text}</p>
	<div class="mt-4 flex justify-end gap-2">
		<Button onclick={() => (open = false)}>Cancel</Button>
		<Button
			kind="strong"
			onclick={() => {
				onconfirm();
				open = false;
			}}>{action}</Button
		>
	</div>
</Dialog>
