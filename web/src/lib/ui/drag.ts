// A drag by pointer: from pressing to releasing, wherever the pointer goes meanwhile.
import type { Attachment } from 'svelte/attachments';

export type Drag = {
	/** The press; return false to leave it alone. */
	start?: (event: PointerEvent) => boolean | void;
	/** A move, with the distance from the press in pixels. */
	move: (event: PointerEvent, right: number, down: number) => void;
	/** The end: released, or taken away by the system. */
	end?: (event: PointerEvent, moved: boolean) => void;
};

/** Moves of less than this are a click. */
const STARTS_PX = 3;

/** Makes an element draggable; `options` are read anew at each press. */
export function draggable(options: () => Drag): Attachment<Element> {
	return (node) => {
		const element = node as HTMLElement;
		let pressed: { id: number; x: number; y: number; moved: boolean; drag: Drag } | null = null;

		const down = (event: PointerEvent) => {
			if (event.button !== 0) return;
			// A press whose end was never seen does not keep this one away.
			if (pressed) end(event, pressed.id);
			const drag = options();
			if (drag.start?.(event) === false) return;
			event.preventDefault();
			event.stopPropagation();
			element.setPointerCapture(event.pointerId);
			pressed = { id: event.pointerId, x: event.clientX, y: event.clientY, moved: false, drag };
			// The element may go or be moved meanwhile, and lose the pointer: the page sees its end.
			for (const [kind, heard] of PAGE) window.addEventListener(kind, heard);
		};
		const move = (event: PointerEvent) => {
			if (event.pointerId !== pressed?.id) return;
			const [right, low] = [event.clientX - pressed.x, event.clientY - pressed.y];
			pressed.moved ||= Math.hypot(right, low) >= STARTS_PX;
			if (pressed.moved) pressed.drag.move(event, right, low);
		};
		const end = (event: PointerEvent, id = event.pointerId) => {
			if (id !== pressed?.id) return;
			const { drag, moved } = pressed;
			pressed = null;
			for (const [kind, heard] of PAGE) window.removeEventListener(kind, heard);
			drag.end?.(event, moved);
		};
		const released = (event: PointerEvent) => end(event);
		const PAGE = [
			['pointermove', move],
			['pointerup', released],
			['pointercancel', released]
		] as const;
		element.style.touchAction = 'none';
		element.addEventListener('pointerdown', down);
		return () => {
			element.removeEventListener('pointerdown', down);
			for (const [kind, heard] of PAGE) window.removeEventListener(kind, heard);
		};
	};
}
