// The page in full screen, where the browser allows it (Fullscreen API).
import { onMount } from 'svelte';

/** Whether the page fills the screen by our doing, and not only the window. */
export function isFullScreen(): boolean {
	return Boolean(globalThis.document?.fullscreenElement);
}

/** Enter or leave full screen; a browser that refuses leaves the window as it is. */
export async function fillScreen(on: boolean) {
	if (on === isFullScreen()) return;
	try {
		await (on ? document.documentElement.requestFullscreen() : document.exitFullscreen());
	} catch {
		// Not allowed here, as in some frames: what is large fills the window.
	}
}

/** Call `left` when the user leaves full screen by the browser's own way. */
export function onLeftFullScreen(left: () => void) {
	onMount(() => {
		const changed = () => {
			if (!isFullScreen()) left();
		};
		document.addEventListener('fullscreenchange', changed);
		return () => document.removeEventListener('fullscreenchange', changed);
	});
}
