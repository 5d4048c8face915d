<script lang="ts">
	// The music of the edit: chosen, moved, heard, and its beats detected.
	import { untrack } from 'svelte';
	import { createQuery, useQueryClient } from '@tanstack/svelte-query';
	import { api, request, type Clip } from '$lib/api/client';
	import { isActive } from '$lib/shell/activity';
	import Button from '$lib/ui/Button.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import Progress from '$lib/ui/Progress.svelte';
	import Select from '$lib/ui/Select.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import ImportSound from '$lib/clips/ImportSound.svelte';
	import type { EditDocument } from './editDocument.svelte';
	import type { MusicPlayer } from '$lib/sound/musicPlayer.svelte';

	let { editDocument, player }: { editDocument: EditDocument; player: MusicPlayer } = $props();

	const ASK_AGAIN_MS = 700;
	const client = useQueryClient();
	let music = $derived(editDocument.edit.music);
	const listed = createQuery(() => ({
		queryKey: ['sounds'],
		queryFn: () => request(api.GET('/api/clips', { params: { query: { sound: true } } })),
		enabled: !music
	}));
	let sounds = $derived(listed.data ?? []);
	/** The sound whose beats were asked for here: they become the edit's once they are found. */
	let asked = $state<string | null>(null);
	let path = $derived({ params: { path: { clip_id: asked ?? '' } } });
	const beats = createQuery(() => ({
		queryKey: ['beats', asked],
		queryFn: () => request(api.GET('/api/clips/{clip_id}/beats', path)),
		enabled: asked !== null,
		refetchInterval: ({ state }) => (state.data && !isActive(state.data) ? false : ASK_AGAIN_MS),
		gcTime: 0
	}));
	let detecting = $derived(asked !== null && asked === music?.clip.id);

	$effect(() => {
		if (beats.data && !isActive(beats.data)) untrack(take);
	});

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
		const clip = music.clip.id;
		try {
			await request(
				api.POST('/api/clips/{clip_id}/beats', { params: { path: { clip_id: clip } } })
			);
			asked = clip;
			await client.invalidateQueries({ queryKey: ['activity'] });
		} catch (error) {
			toast.error(error);
		}
	}

	async function cancel() {
		try {
			await request(api.POST('/api/clips/{clip_id}/beats/cancel', path));
			asked = null;
			await client.invalidateQueries({ queryKey: ['activity'] });
		} catch (error) {
			toast.error(error);
		}
	}

	/** What was found becomes the beat grid: the first beat after the edit's start, on the grid of the music. */
	function take() {
		const found = beats.data;
		const isWanted = music?.clip.id === asked;
		asked = null;
		if (!found || !music || !isWanted || found.state === 'cancelled') return;
		if (found.state !== 'done' || found.bpm == null) return toast.error(found.message);
		const step = 60 / found.bpm;
		const first = music.offset_s + (found.offset_s ?? 0);
		const offset = Number((first - Math.floor(first / step) * step).toFixed(3));
		const begins = music.offset_s;
		editDocument.change({
			beats_per_minute: Number(found.bpm.toFixed(1)),
			beat_offset_s: offset,
			beat_times_s: found.beats_s.map((time) => Number((begins + time).toFixed(3)))
		});
		toast.info(`Found ${found.beats_s.length} beats, ${found.bpm.toFixed(1)} BPM`);
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
		{#if detecting}
			<span class="small text-quiet">Detecting beats</span>
			<span class="w-20"
				><Progress
					label="Detection of beats"
					done={beats.data?.done_s ?? 0}
					of={beats.data?.total_s ?? 1}
				/></span
			>
			<Button kind="bare" onclick={cancel}>Cancel</Button>
		{:else}
			<Button onclick={detectBeats}>Detect beats</Button>
		{/if}
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
