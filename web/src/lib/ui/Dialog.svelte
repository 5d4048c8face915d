<script lang="ts">
	// A dialog over the page, named by its title. It opens and closes without a fade: while it faded,
	// the page would ignore the keyboard. The focus returns to where it was. Messages appear inside it.
	import { untrack } from 'svelte';
	import { Modal, type ModalProps } from 'flowbite-svelte';
	import { openDialogs } from './openDialogs.svelte';
	import Toasts from './Toasts.svelte';

	let { open = $bindable(false), title, children, ...rest }: ModalProps = $props();

	const id = $props.id();
	let before: HTMLElement | null = null;
	$effect.pre(() => {
		if (open) before = document.activeElement as HTMLElement | null;
		else if (before?.isConnected) {
			const returning = before;
			before = null;
			queueMicrotask(() => returning.focus());
		}
	});
	$effect(() => {
		if (open) return untrack(() => openDialogs.add(id));
	});
</script>

<Modal bind:open {title} aria-label={title} transitionParams={{ duration: 0 }} {...rest}>
	{@render children?.()}
	{#if openDialogs.top === id}<Toasts />{/if}
</Modal>
