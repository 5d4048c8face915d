<script lang="ts">
	// A button on a clip's card with a summary, and a panel with its fields.
	import type { Snippet } from 'svelte';
	import type { ClipSide } from '$lib/bench/cutTypes';
	import Button from '$lib/ui/Button.svelte';
	import Popover from '$lib/ui/Popover.svelte';

	type Props = {
		name: string;
		side: ClipSide;
		summary: string;
		tip?: string;
		width: number;
		open?: boolean;
		children: Snippet;
	};
	let { name, side, summary, tip, width, open = $bindable(false), children }: Props = $props();
</script>

<Popover
	label="{name} of the {side} clip"
	placement={side === 'outgoing' ? 'right' : 'left'}
	bind:open
>
	{#snippet button(attributes)}
		<Button
			{...attributes}
			low
			{tip}
			aria-label="{summary}: {name.toLowerCase()} of the {side} clip">{summary}</Button
		>
	{/snippet}
	<div class="fields" style:width="{width}px">
		{@render children()}
	</div>
</Popover>

<style>
	.fields {
		display: flex;
		flex-direction: column;
		gap: 6px;
		white-space: normal;
	}
	.fields :global(.line) {
		display: flex;
		align-items: center;
		justify-content: space-between;
		gap: 8px;
	}
</style>
