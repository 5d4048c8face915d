// Short messages that come and go: what happened, and what to do about it.
export type Notice = {
	id: number;
	kind: 'info' | 'error';
	text: string;
	action?: { label: string; run: () => void };
};

const SHOWN_MS = 7000;
// A message with an action stays longer.
const SHOWN_WITH_ACTION_MS = 20_000;

class Toasts {
	list = $state<Notice[]>([]);
	#last = 0;

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
		this.list = [...this.list, { ...notice, id }];
		const shown = notice.action ? SHOWN_WITH_ACTION_MS : SHOWN_MS;
		if (notice.kind === 'info') setTimeout(() => this.close(id), shown);
	}
}

export const toast = new Toasts();
