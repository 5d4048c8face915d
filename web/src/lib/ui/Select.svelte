<script lang="ts" generics="T extends string">
	// A choice among named values.
	import { Select } from 'flowbite-svelte';
	import Tip from './Tip.svelte';

	type Props = {
		/** The name for screen readers; a visible label beside it says the same. */
		label: string;
		value: T;
		items: readonly { value: T; name: string }[];
		tip?: string;
		wide?: boolean;
		/** Looks like text, for a unit inside a sentence. */
		inline?: boolean;
		onchange: (value: T) => void;
	};
	let { label, value, items, tip = '', wide = false, inline = false, onchange }: Props = $props();

	const INLINE = 'h-6 border-0 border-b border-dotted border-quiet bg-transparent py-0 pr-5 pl-0';
</script>

<Select
	placeholder=""
	aria-label={label}
	{...{ 'aria-description': tip || undefined }}
	class={wide ? 'w-full min-w-0 flex-1' : 'min-w-0'}
	classes={{ select: inline ? INLINE : 'focus:ring-0 focus:border-seam truncate' }}
	items={[...items]}
	bind:value={() => value, (next: T) => next !== value && onchange(next)}
/>
{#if tip}<Tip>{tip}</Tip>{/if}
