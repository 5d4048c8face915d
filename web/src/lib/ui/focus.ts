// Who a key belongs to: the focused element, or the screen; and where the focus stays when the screen changes.
import { tick } from 'svelte';

const TEXT =
	'input:not([type=checkbox], [type=range], [type=button]), textarea, select, [contenteditable]';
const PRESSABLE = 'button, a, summary, [role=switch], input[type=checkbox]';

/** Whether the focused element uses the key itself: text fields use every key. */
export function isTyping(event: KeyboardEvent): boolean {
	const target = event.target as HTMLElement;
	if (target.closest('dialog[open], [popover]:popover-open')) return true;
	if (target.matches(TEXT)) return true;
	if (target.matches('input[type=range]')) return /^(Arrow|Home|End|Page)/.test(event.key);
	return target.matches(PRESSABLE) && [' ', 'Enter'].includes(event.key);
}

/** Take the focus off a button pressed by pointer, so that Space plays again. */
export function blurPressed(event: MouseEvent) {
	const button = (event.target as Element).closest('button');
	if (
		event.detail > 0 &&
		button === document.activeElement &&
		!button?.hasAttribute('popovertarget')
	)
		button?.blur();
}

/**
 * Do what moves or removes elements: the focused one keeps the focus, and where it has gone, the one that
 * `otherwise` names takes it.
 */
export async function keepingFocus(change: () => void, otherwise: () => HTMLElement | null) {
	const focused = globalThis.document?.activeElement;
	change();
	if (!(focused instanceof HTMLElement) || focused === document.body) return;
	await tick();
	if (document.activeElement !== document.body && document.activeElement?.isConnected) return;
	(focused.isConnected ? focused : otherwise())?.focus();
}
