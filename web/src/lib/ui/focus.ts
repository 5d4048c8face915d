// Who a key belongs to: the focused element, or the screen.

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
