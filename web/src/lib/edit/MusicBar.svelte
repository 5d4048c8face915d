<script lang="ts">
	// The music of the edit: chosen, moved, heard, and its beats detected.
	import { api, request, type Clip } from '$lib/api/client';
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import Select from '$lib/ui/Select.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import ImportSound from '$lib/clips/ImportSound.svelte';
	import type { EditDocument } from './editDocument.svelte';
	import type { MusicPlayer } from '$lib/sound/musicPlayer.svelte';

	let { editDocument, player }: { editDocument: EditDocument; player: MusicPlayer } = $props();

	const ASK_AGAIN_MS = 700;
	let detecting = $state(false);
	let sounds = $state.raw<Clip[]>([]);
	let music = $derived(editDocument.edit.music);

	$effect(() => {
		if (!music) void list();
	});

	async function list() {
		try {
			sounds = await request(api.GET('/api/clips', { params: { query: { sound: true } } }));
		} catch (error) {
			toast.error(error);
		}
	}

	function choose(id: string) {
		const clip = sounds.find((each) => each.id === id);
		if (clip) begin(clip);
	}

	/** Lay a sound under the edit, from its start on. */
	function begin(clip: Clip) {
		editDocument.setMusic({ clip, offset_s: 0, gain_db: 0 });
	}

	async function detectBeats() {
		if (!music) return;
		detecting = true;
		const params = { path: { clip_id: music.clip.id } };
		try {
			let found = await request(api.POST('/api/clips/{clip_id}/beats', { params }));
			while (['waiting', 'running'].includes(found.state) && detecting) {
				await new Promise((done) => setTimeout(done, ASK_AGAIN_MS));
				found = await request(api.GET('/api/clips/{clip_id}/beats', { params }));
			}
			if (!detecting) return;
			if (found.state !== 'done' || found.bpm == null) throw new Error(found.message);
			// The first beat after the edit's start, on the grid of the music.
			const step = 60 / found.bpm;
			const first = (music?.offset_s ?? 0) + (found.offset_s ?? 0);
			const offset = Number((first - Math.floor(first / step) * step).toFixed(3));
			const begins = music?.offset_s ?? 0;
			editDocument.change({
				beats_per_minute: Number(found.bpm.toFixed(1)),
				beat_offset_s: offset,
				beat_times_s: found.beats_s.map((time) => Number((begins + time).toFixed(3)))
			});
			toast.info(`Found ${found.beats_s.length} beats, ${found.bpm.toFixed(1)} BPM`);
		} catch (error) {
			toast.error(error);
		} finally {
			detecting = false;
		}
	}
</script>

<div class="music" role="group" aria-label="Music">
	{#if music}
		<Button
			pressed={player.playing}
			tip={player.playing ? 'Stop the music' : 'Play the music from the start of the edit'}
			onclick={() => (player.playing ? player.stop() : void player.play(music))}
			>{player.playing ? 'Stop music' : 'Play music'}</Button
		>
		<span class="small text-quiet">Begins at</span>
		<NumberField
			label="Music begins at"
			live={false}
			value={music.offset_s}
			unit="s"
			low={-7200}
			high={7200}
			step={0.1}
			rest={0}
			onchange={(offset_s) => editDocument.setMusic({ ...music, offset_s })}
		/>
		<NumberField
			label="Level of the music"
			live={false}
			value={music.gain_db}
			unit="dB"
			low={-60}
			high={12}
			step={0.5}
			rest={0}
			onchange={(gain_db) => editDocument.setMusic({ ...music, gain_db })}
		/>
		<Button disabled={detecting} onclick={detectBeats}
			>{detecting ? 'Detecting beats…' : 'Detect beats'}</Button
		>
		{#if detecting}<Button kind="bare" onclick={() => (detecting = false)}>Cancel</Button>{/if}
		<Button
			kind="bare"
			onclick={() => {
				player.stop();
				editDocument.removeMusic();
			}}>Remove music</Button
		>
	{:else}
		{#if sounds.length}
			<Select
				label="Music"
				value=""
				items={[
					{ value: '', name: 'Add music…' },
					...sounds.map(({ id, name }) => ({ value: id, name }))
				]}
				onchange={choose}
			/>
		{/if}
		<ImportSound
			label={sounds.length ? 'Import music…' : 'Add music…'}
			field="Import music"
			onimport={begin}
		/>
	{/if}
</div>

<style>
	.music {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 8px;
	}
</style>
