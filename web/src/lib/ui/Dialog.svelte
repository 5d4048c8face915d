<script lang="ts">
	// A dialog over the page, named by its title. It opens and closes without a fade: while it faded,
	// the page would ignore the keyboard. The focus returns to where it was.
	import { Modal, type ModalProps } from 'flowbite-svelte';

	let { open = $bindable(false), title, children, ...rest }: ModalProps = $props();

	let before: HTMLElement | null = null;
	$effect.pre(() => {
		if (open) before = document.activeElement as HTMLElement | null;
		else if (before?.isConnected) {
			const returning = before;
			before = null;
			queueMicrotask(() => returning.focus());
		}
	});
</script>

<Modal bind:open {title} aria-label={title} transitionParams={{ duration: 0 }} {...rest}>
	{@render children?.()}
</Modal>
