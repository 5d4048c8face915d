<script lang="ts">
	// A button, or a link that looks like one. `tip` says what it does, with its key.
	import type { HTMLButtonAttributes } from 'svelte/elements';
	import { Button } from 'flowbite-svelte';
	import Tip from './Tip.svelte';

	type Props = Omit<HTMLButtonAttributes, 'class' | 'type'> & {
		/** Makes it a link. */
		href?: string;
		download?: boolean | string;
		type?: 'button' | 'submit';
		class?: string;
		/** Strong for the main action; bare without an edge, for lists and rows. */
		kind?: 'plain' | 'strong' | 'bare';
		/** Whether a button that stays down is down. */
		pressed?: boolean;
		tip?: string;
		/** Lower, for rows of controls. */
		low?: boolean;
	};
	let {
		kind = 'plain',
		pressed,
		tip = '',
		low = false,
		class: extra,
		children,
		...rest
	}: Props = $props();

	/** Once it is pressed its tip has been read, and lies over nothing more until the pointer comes back. */
	let isPressed = $state(false);
	const LOOKS = {
		plain:
			'border border-edge bg-surround text-ink hover:bg-line hover:text-ink focus-within:text-ink px-2.5',
		strong:
			'border border-seam bg-seam font-semibold text-page hover:bg-primary-800 hover:text-page focus-within:text-page px-2.5',
		bare: 'border border-transparent bg-transparent px-1.5 text-quiet hover:bg-line hover:text-ink focus-within:text-ink'
	};
	const DOWN =
		'border-quiet bg-quiet text-page hover:bg-quiet hover:text-page focus-within:text-page';
	const DISABLED =
		'disabled:cursor-default disabled:bg-transparent disabled:text-[#8a8781] disabled:opacity-100 disabled:hover:bg-transparent';
	let look = $derived(
		[
			'min-w-6 gap-1.5 rounded-md py-0 text-[12px] font-normal whitespace-nowrap focus-within:ring-0 focus-within:outline-none focus-visible:outline-2',
			low ? 'h-6' : 'h-[26px]',
			LOOKS[kind],
			DISABLED,
			kind === 'bare' ? '' : 'disabled:border-line',
			pressed ? DOWN : '',
			extra
		]
			.filter(Boolean)
			.join(' ')
	);
</script>

<Button
	color="alternative"
	onpointerdown={() => (isPressed = true)}
	onpointerleave={() => (isPressed = false)}
	aria-pressed={pressed}
	{...{ 'aria-description': tip || undefined }}
	{...rest as object}
	class={look}>{@render children?.()}</Button
>
{#if tip && !isPressed && rest['aria-expanded'] !== true}<Tip>{tip}</Tip>{/if}
