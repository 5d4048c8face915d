<script lang="ts">
	// A dialog over the page. It opens and closes without a fade: while it faded, the page would
	// ignore the keyboard.
	import { Modal, type ModalProps } from 'flowbite-svelte';

	let { open = $bindable(false), children, ...rest }: ModalProps = $props();
</script>

<Modal
	bind:open
	transitionParams={{ duration: 0 }}
	class="border border-line bg-panel! text-ink!"
	headerClass="p-3! text-[15px]!"
	bodyClass="p-3!"
	{...rest}
>
	{@render children?.()}
</Modal>
