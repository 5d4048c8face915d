// Plays the music of an edit, with the place in the edit that it has reached.
import { toast } from '$lib/ui/toast.svelte';
import type { Music } from '$lib/api/client';
import { begin, end } from './speaker';

export class MusicPlayer {
	playing = $state(false);
	/** Seconds from the edit's start. */
	positionS = $state(0);
	#audio: HTMLAudioElement | null = null;
	#request = 0;

	/** Play from a time of the edit, or from where the music begins. */
	async play(music: Music, fromS = 0) {
		this.stop();
		const audio = new Audio(`/api/clips/${music.clip.id}/sound`);
		this.#audio = audio;
		audio.volume = Math.min(1, 10 ** (music.gain_db / 20));
		audio.currentTime = Math.max(0, fromS - music.offset_s);
		audio.onended = () => this.stop();
		this.playing = true;
		begin(this);
		try {
			await audio.play();
		} catch (error) {
			if (audio === this.#audio) {
				this.stop();
				toast.error(error);
			}
			return;
		}
		const tick = () => {
			if (audio !== this.#audio) return;
			this.positionS = audio.currentTime + music.offset_s;
			this.#request = requestAnimationFrame(tick);
		};
		tick();
	}

	stop() {
		cancelAnimationFrame(this.#request);
		this.#audio?.pause();
		this.#audio = null;
		this.playing = false;
		end(this);
	}

	/** Another player is heard. */
	silence() {
		this.stop();
	}
}
