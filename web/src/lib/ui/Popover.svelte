<script lang="ts">
	// A button and a panel beside it. It opens on click, Enter and Space, never on focus; Escape and a
	// click elsewhere close it, and the focus returns to the button (HTML's popover attribute).
	import type { Snippet } from 'svelte';
	import {
		autoUpdate,
		computePosition,
		flip,
		offset,
		shift,
		type Placement
	} from '@floating-ui/dom';

	type Attributes = {
		id: string;
		popovertarget: string;
		'aria-expanded': boolean;
		'aria-haspopup': 'dialog';
	};
	type Props = {
		/** The panel's name. */
		label: string;
		open?: boolean;
		placement?: Placement;
		class?: string;
		button: Snippet<[Attributes]>;
		children: Snippet;
	};
	let {
		label,
		open = $bindable(false),
		placement = 'bottom-start',
		class: extra = '',
		button,
		children
	}: Props = $props();

	const GAP_PX = 6;
	const uid = $props.id();
	const buttonId = `${uid}-button`;
	let panel: HTMLElement;
	let placed = $state(false);

	$effect(() => {
		if (open !== panel.matches(':popover-open')) panel.togglePopover(open);
	});

	$effect(() => {
		const anchor = document.getElementById(buttonId);
		if (!open || !anchor) return;
		const place = async () => {
			const middleware = [offset(GAP_PX), flip(), shift({ padding: GAP_PX })];
			const { x, y } = await computePosition(anchor, panel, {
				placement,
				middleware,
				strategy: 'fixed'
			});
			Object.assign(panel.style, { left: `${x}px`, top: `${y}px` });
			placed = true;
		};
		return autoUpdate(anchor, panel, () => void place());
	});

	function toggled(event: ToggleEvent) {
		open = event.newState === 'open';
		if (!open) placed = false;
		else panel.focus();
	}
</script>

{@render button({
	id: buttonId,
	popovertarget: uid,
	'aria-expanded': open,
	'aria-haspopup': 'dialog'
})}
<div
	bind:this={panel}
	id={uid}
	popover="auto"
	role="dialog"
	tabindex="-1"
	aria-label={label}
	class="panel {extra}"
	style:visibility={placed ? 'visible' : 'hidden'}
	ontoggle={toggled}
>
	{#if open}{@render children()}{/if}
</div>

<style>
	.panel {
		position: fixed;
		inset: auto;
		max-width: calc(100vw - 12px);
		max-height: calc(100vh - 12px);
		margin: 0;
		padding: 8px;
		overflow: auto;
		border: 1px solid var(--color-edge);
		border-radius: 6px;
		background: var(--color-panel);
		color: var(--color-ink);
		box-shadow: 0 6px 20px #000a;
	}
</style>
