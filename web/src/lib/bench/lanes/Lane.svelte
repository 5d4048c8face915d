<script lang="ts">
	// A row under the frames: what it is on the left, its curve, its values on the right. In a narrow
	// window both stand under the curve.
	import type { Snippet } from 'svelte';
	import { ROW_PX } from './laneSizes';

	type Props = {
		label: string;
		/** The id of the filter that the lane is about. */
		filter?: string;
		open: boolean;
		height: number;
		onselect: () => void;
		left: Snippet;
		curve: Snippet;
		right: Snippet;
	};
	let { label, filter, open, height, onselect, left, curve, right }: Props = $props();

	let article: HTMLElement;
	// A lane that is opened comes into sight; the one that is open at first leaves the page at its top.
	let first = true;
	$effect(() => {
		void height;
		if (open && !first) article.scrollIntoView({ block: 'nearest' });
		first = false;
	});
</script>

<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
<article
	class="lane"
	class:open
	style:--height="{height}px"
	style:--row="{ROW_PX}px"
	bind:this={article}
	aria-label={label}
	data-filter={filter}
	onclick={onselect}
>
	<div class="left">{@render left()}</div>
	<div class="curve">{@render curve()}</div>
	<div class="right">{@render right()}</div>
</article>

<style>
	.lane {
		position: relative;
		display: grid;
		grid-template-columns: var(--side) minmax(0, 1fr) var(--side);
		height: var(--height);
		border-bottom: 1px solid var(--color-line);
	}
	.open {
		background: #232323;
	}
	.left {
		padding: 3px 10px 2px 4px;
		min-width: 0;
	}
	.left :global(.name) {
		display: flex;
		flex: 1;
		flex-direction: column;
		min-width: 0;
		min-height: 28px;
		overflow: hidden;
		text-align: left;
		line-height: 1.15;
		white-space: nowrap;
	}
	.left :global(.name.alone) {
		width: 100%;
		padding: 0 0 4px 28px;
	}
	.left :global(.name span:first-child) {
		font-weight: 600;
	}
	.lane :global(.label) {
		color: var(--color-quiet);
	}
	.right {
		display: flex;
		flex-direction: column;
		justify-content: center;
		padding: 4px 10px 4px 12px;
		min-width: 0;
	}
	.open .right {
		justify-content: flex-start;
		padding-top: 6px;
	}
	.right :global(.parameter) {
		display: flex;
		align-items: center;
		justify-content: space-between;
		min-height: var(--row);
		gap: 6px;
	}
	.right :global(.control) {
		display: flex;
		align-items: center;
		gap: 4px;
	}
	:global(.narrow) .lane {
		grid-template-areas: 'curve curve' 'left right';
		grid-template-columns: 1fr 1fr;
		height: auto;
	}
	:global(.narrow) .curve {
		grid-area: curve;
	}
	:global(.narrow) .left {
		grid-area: left;
	}
	:global(.narrow) .right {
		grid-area: right;
	}
</style>
