import { beforeEach, expect, it, vi } from 'vitest';
import { hearing } from '$lib/sound/hearing.svelte';
import { FilmPlayer } from './filmPlayer.svelte';

/** Frames and sound that come when they are let go. */
const film = vi.hoisted(() => ({
	letGo: [] as (() => void)[],
	started: [] as number[],
	stops: 0
}));

vi.mock('./filmFrames', () => ({
	FilmFrames: class {
		begin() {}
		close() {}
		at = () => null;
		has = () => false;
		loadAfter = () => new Promise((done) => film.letGo.push(() => done(true)));
	}
}));
vi.mock('$lib/sound/filmSound', () => ({
	FilmSound: class {
		frame = 0;
		start(frame: number) {
			film.started.push(frame);
			return Promise.resolve(true);
		}
		stop() {
			film.stops += 1;
		}
	}
}));
vi.stubGlobal('requestAnimationFrame', () => 1);
vi.stubGlobal('cancelAnimationFrame', () => {});

let player: FilmPlayer;
beforeEach(() => {
	Object.assign(film, { letGo: [], started: [], stops: 0 });
	player = new FilmPlayer('edit', 25, 100);
});
async function framesCome() {
	for (const each of film.letGo.splice(0)) each();
	await new Promise((done) => setTimeout(done));
}

it('is heard from where it plays', async () => {
	player.frame = 40;
	void player.play();
	await framesCome();
	expect([player.playing, film.started]).toEqual([true, [40]]);
});

it('plays backward and fast without sound, and is heard again at the usual speed', async () => {
	player.frame = 40;
	player.shuttle(-1);
	await framesCome();
	player.shuttle(-1);
	await framesCome();
	expect([player.times, film.started]).toEqual([-2, []]);
	player.shuttle(1);
	await framesCome();
	expect([player.times, film.started.length]).toEqual([1, 1]);
	player.pause();
	expect(player.times).toBe(0);
});

it('starts at the other end where it stands at one', async () => {
	player.shuttle(-1);
	await framesCome();
	player.pause();
	player.frame = 99;
	void player.play();
	await framesCome();
	expect(film.started).toEqual([0]);
});

it.each([
	['paused', () => player.pause()],
	['closed', () => player.close()],
	['left at another frame', () => void player.seek(7).then(() => player.pause())]
])('is not heard once it was %s before its frames came', async (_, stop) => {
	void player.play();
	stop();
	player.pause();
	await framesCome();
	expect(film.started).toEqual([]);
	expect(player.playing).toBe(false);
});

it('plays on without sound where sound is off, and takes it up from where it is', async () => {
	hearing.toggle();
	void player.play();
	await framesCome();
	expect([player.playing, film.started]).toEqual([true, []]);
	player.frame = 12;
	player.toggleSound();
	await framesCome();
	expect([player.playing, film.started]).toEqual([true, [12]]);
});

it('loads the picture of where it was stopped, though playing had not come so far', async () => {
	void player.play();
	const asked = film.letGo.length;
	player.toggle();
	expect(film.letGo.length).toBe(asked + 1);
	await framesCome();
	expect([player.playing, film.started]).toEqual([false, []]);
});
