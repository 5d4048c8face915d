<script lang="ts">
	// A button on a clip's card with a summary, and a popover with its fields.
	import type { Snippet } from 'svelte';
	import { Popover } from 'flowbite-svelte';
	import type { ClipSide } from './bench.svelte';

	type Props = {
		name: string;
		side: ClipSide;
		summary: string;
		title?: string;
		width: number;
		open?: boolean;
		children: Snippet;
	};
	let { name, side, summary, title, width, open = $bindable(false), children }: Props = $props();

	let id = $derived(`${name.toLowerCase()}-${side}`);
</script>

<button
	class="plain-button"
	{id}
	{title}
	aria-expanded={open}
	aria-label="{name} of the {side} clip: {summary}">{summary}</button
>
<Popover
	bind:isOpen={open}
	triggeredBy="#{id}"
	trigger="click"
	placement={side === 'outgoing' ? 'right' : 'left'}
	arrow={false}
	class="z-40 border border-line bg-panel! text-ink!"
>
	<div class="fields" style:width="{width}px" role="group" aria-label="{name} of the {side} clip">
		{@render children()}
	</div>
</Popover>

<style>
	.fields {
		white-space: normal;
		display: flex;
		flex-direction: column;
		padding: 2px;
		gap: 6px;
	}
	.fields :global(.line) {
		display: flex;
		align-items: center;
		justify-content: space-between;
	}
	.fields :global(.quiet) {
		color: var(--color-quiet);
	}
	.plain-button,
	.fields :global(.plain-button) {
		height: 22px;
	}
</style>
