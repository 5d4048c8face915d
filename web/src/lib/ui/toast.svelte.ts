// Short messages that come and go: what happened, and what to do about it.
export type Notice = {
	id: number;
	kind: 'info' | 'error';
	text: string;
	action?: { label: string; run: () => void };
};

const SHOWN_MS = 7000;
/** Messages that stay until they are closed: at most so many, the newest. */
const MOST_KEPT = 4;

class Toasts {
	list = $state<Notice[]>([]);
	#last = 0;

	/** A message with an action stays until it is closed: nobody has to be quick (WCAG 2.2.1). */
	info(text: string, action?: Notice['action']) {
		if (this.list.some((notice) => notice.text === text)) return;
		this.#add({ kind: 'info', text, action });
	}

	/** An error stays until it is closed. */
	error(error: unknown, action?: Notice['action']) {
		const text = error instanceof Error ? error.message : String(error);
		if (!this.list.some((notice) => notice.text === text))
			this.#add({ kind: 'error', text, action });
	}

	close(id: number) {
		this.list = this.list.filter((notice) => notice.id !== id);
	}

	#add(notice: Omit<Notice, 'id'>) {
		const id = ++this.#last;
		this.list = [...this.list.slice(1 - MOST_KEPT), { ...notice, id }];
		if (notice.kind === 'info' && !notice.action) setTimeout(() => this.close(id), SHOWN_MS);
	}
}

export const toast = new Toasts();
