// Announcements for screen readers, each once, without a message on the screen (WCAG 4.1.3).
class Announcer {
	text = $state('');
	#again = false;

	say(text: string) {
		// The same text twice is announced twice.
		this.#again = !this.#again;
		this.text = this.#again ? text : `${text}\u00a0`;
	}
}

export const announcer = new Announcer();

export function announce(text: string) {
	announcer.say(text);
}
