// Signing in over the page: what could not be sent waits for it.
import { noteSignIn } from '$lib/api/signedFetch';

class SignIn {
	/** Whether somebody has to sign in before the work goes on. */
	isNeeded = $state(false);
	#waiting: (() => void)[] = [];

	/** Resolves once somebody has signed in. */
	wait(): Promise<void> {
		this.isNeeded = true;
		return new Promise((done) => this.#waiting.push(done));
	}

	/** Somebody has signed in: what waits goes on. */
	done() {
		noteSignIn();
		this.isNeeded = false;
		const waiting = this.#waiting;
		this.#waiting = [];
		for (const each of waiting) each();
	}
}

export const signIn = new SignIn();
