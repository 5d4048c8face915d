<script lang="ts">
	// A switch: on or off.
	import type { Snippet } from 'svelte';
	import { Toggle } from 'flowbite-svelte';
	import Tip from './Tip.svelte';

	type Props = {
		label: string;
		on: boolean;
		tip?: string;
		onchange: (on: boolean) => void;
		children?: Snippet;
	};
	let { label, on, tip = '', onchange, children }: Props = $props();
</script>

<Toggle
	size="small"
	role="switch"
	aria-label={label}
	aria-checked={on}
	class="min-h-6"
	bind:checked={() => on, (next) => next !== on && onchange(next ?? false)}
>
	{@render children?.()}
</Toggle>
{#if tip}<Tip>{tip}</Tip>{/if}
