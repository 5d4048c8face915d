<script lang="ts">
	// The border between the picture and the lanes: dragged, or moved with the arrow keys.
	import { draggable } from '$lib/ui/drag';
	import type { Remembered } from '$lib/ui/remembered.svelte';
	import Tip from '$lib/ui/Tip.svelte';

	let { share }: { share: Remembered<number> } = $props();

	const LEAST = 0.04;
	const MOST = 0.86;
	const STEP = 0.04;
	let border: HTMLElement;
	let from = 0;

	function current(): number {
		const row = border.previousElementSibling?.getBoundingClientRect().height ?? 0;
		return row / (border.parentElement?.clientHeight || 1);
	}

	function set(next: number) {
		share.value = Math.min(MOST, Math.max(LEAST, next));
	}

	const drag = draggable(() => ({
		start: () => void (from = current()),
		move: (_, __, down) => set(from + down / (border.parentElement?.clientHeight || 1))
	}));

	function onkeydown(event: KeyboardEvent) {
		const by = { ArrowUp: -STEP, ArrowDown: STEP }[event.key];
		if (by) set(current() + by);
		else if (event.key === 'Home') set(LEAST);
		else if (event.key === 'End') set(MOST);
		else if (event.key === 'Enter') share.value = 0;
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
	bind:this={border}
	class="divider"
	role="separator"
	tabindex="0"
	aria-orientation="horizontal"
	aria-label="Border between picture and lanes"
	aria-valuemin={LEAST * 100}
	aria-valuemax={MOST * 100}
	aria-valuenow={Math.round((share.value || 0.43) * 100)}
	{@attach drag}
	ondblclick={() => (share.value = 0)}
	{onkeydown}
></div>
<Tip>Drag for a larger picture or more lanes; double-click for the usual height</Tip>

<style>
	.divider {
		position: relative;
		z-index: 2;
		flex: none;
		height: 5px;
		margin: -1px 0;
		background: var(--color-line);
		cursor: row-resize;
	}
	/* A wider target than the line that is seen. */
	.divider::after {
		position: absolute;
		inset: -10px 0 -9px;
		content: '';
	}
	.divider:hover,
	.divider:focus-visible {
		background: var(--color-seam);
	}
	@container (max-width: 900px) {
		.divider {
			display: none;
		}
	}
</style>
