<script lang="ts">
	// The screen of an edit: its clips and cuts, and recipes for several cuts at once.
	import { onDestroy, onMount, untrack } from 'svelte';
	import { createQuery } from '@tanstack/svelte-query';
	import type { Edit, Placed } from '$lib/api/client';
	import RecipeBook from '$lib/book/RecipeBook.svelte';
	import RecipeDrop from '$lib/book/RecipeDrop.svelte';
	import { isRecipeFile } from '$lib/book/recipeFiles';
	import { framesName } from '$lib/clips/shown';
	import DropFiles from '$lib/clips/DropFiles.svelte';
	import UploadList from '$lib/clips/UploadList.svelte';
	import { Uploads } from '$lib/clips/uploads.svelte';
	import UnsavedGuard from '$lib/saving/UnsavedGuard.svelte';
	import Boundary from '$lib/ui/Boundary.svelte';
	import Button from '$lib/ui/Button.svelte';
	import { fillScreen, onLeftFullScreen } from '$lib/ui/fullScreen';
	import NumberField from '$lib/ui/NumberField.svelte';
	import { toast } from '$lib/ui/toast.svelte';
	import { counted } from '$lib/ui/numbers';
	import BeatBar from './BeatBar.svelte';
	import ClipPanel from './ClipPanel.svelte';
	import CutRows from './CutRows.svelte';
	import EditBar from './EditBar.svelte';
	import { placedAt } from './editChanges';
	import { EditDocument } from './editDocument.svelte';
	import { listenToKeys } from './editKeys';
	import { applyDropped, applyRecipe, type Alternate } from './editSteps';
	import EditFilm from '$lib/edit/film/EditFilm.svelte';
	import FilmPlayerPanel from '$lib/edit/film/FilmPlayer.svelte';
	import { FilmPlayer } from '$lib/edit/film/filmPlayer.svelte';
	import MusicBar from './MusicBar.svelte';
	import { MusicPlayer } from '$lib/sound/musicPlayer.svelte';

	let { given }: { given: Edit } = $props();

	const MOST_ZOOM = 200;
	/** A clip is at first about this wide on the film, in an edit of many clips. */
	const CLIP_SHARE = 1 / 16;
	const editDocument = untrack(() => new EditDocument(given));
	const added = new Uploads();
	const player = new MusicPlayer();
	let film = $state.raw<FilmPlayer | null>(null);
	let filmFrame = 0;
	let alternate = $state<Alternate>('');
	let choosing = $state(false);
	/** Where an accent is being chosen for. */
	let accentAt = $state.raw<{ placed: Placed; at: number } | null>(null);
	let choosingAccent = $state(false);
	let shownClip = $state('');
	let zoom = $state(untrack(() => Math.max(1, Math.round(given.placed.length * CLIP_SHARE))));
	let edit = $derived(editDocument.edit);
	let panelled = $derived(edit.placed.find((each) => each.id === shownClip));

	let isLarge = $state(false);
	onMount(() =>
		listenToKeys({
			undo: () => edit.undo_label && editDocument.undo(),
			redo: () => edit.redo_label && editDocument.redo(),
			toggle: () => void playFilm(),
			film: () => film,
			open: openFilm,
			fill: () => void fillWithFilm(!isLarge)
		})
	);
	onLeftFullScreen(() => (isLarge = false));

	async function fillWithFilm(large: boolean) {
		isLarge = large;
		void fillScreen(large);
		if (large && !film) await openFilm();
	}

	onDestroy(() => {
		player.stop();
		closeFilm();
	});

	/** Grows with every opening and closing of the player: an older opening opens nothing. */
	let openings = 0;

	/** Open the player once everything is saved: it plays what is saved. */
	async function openFilm(): Promise<FilmPlayer | null> {
		player.stop();
		const opening = (openings += 1);
		const isSaved = await editDocument.saver.afterSaving(() => Promise.resolve(true));
		if (opening !== openings) return null;
		if (!isSaved) {
			toast.error(`Not played: there are unsaved changes. ${editDocument.saver.problem}`);
			return null;
		}
		film?.close();
		const { id, frame_count } = editDocument.edit;
		film = new FilmPlayer(id, editDocument.rate, frame_count);
		film.frame = Math.min(filmFrame, Math.max(0, film.count - 1));
		return film;
	}

	function chooseAccent(found: { placed: Placed; at: number } | undefined) {
		film?.stopHere();
		accentAt = found ?? null;
		choosingAccent = true;
	}

	function accentAtPlayer() {
		if (film) chooseAccent(placedAt(editDocument.edit, film.frame));
	}

	function closeFilm() {
		openings += 1;
		filmFrame = film?.frame ?? filmFrame;
		film?.close();
		film = null;
	}

	function closePlayer() {
		if (isLarge) void fillWithFilm(false);
		closeFilm();
	}

	async function playFilm() {
		if (film) film.toggle();
		else void (await openFilm())?.play();
	}

	// What is arranged anew is played anew.
	let arranged = $derived(`${edit.version} ${edit.cuts.map((cut) => cut.version).join()}`);
	let playedOf = '';
	$effect(() => {
		const now = arranged;
		untrack(() => {
			if (film && playedOf && playedOf !== now) {
				const wasPlaying = film.playing;
				closeFilm();
				void openFilm().then((opened) => {
					if (wasPlaying) void opened?.play();
				});
			}
			playedOf = now;
		});
	});

	// Checks that have not run yet follow, some at a time.
	const CHECKS_AFTER_MS = 250;
	let unchecked = $derived(edit.cuts.some((cut) => !cut.worst));
	createQuery(() => ({
		queryKey: ['checks', edit.id, edit.version],
		queryFn: () => editDocument.readChecks(),
		enabled: unchecked,
		refetchInterval: ({ state }) => (state.data ? false : CHECKS_AFTER_MS),
		gcTime: 0
	}));

	createQuery(() => ({
		queryKey: ['beats', edit.id, edit.version],
		queryFn: () => editDocument.readBeats(),
		gcTime: 0
	}));

	function framesVersion(cutId: string): string {
		const n = edit.cuts.findIndex(({ id }) => id === cutId);
		const [outgoing, incoming] = [edit.placed[n], edit.placed[n + 1]];
		return outgoing && incoming ? framesName(outgoing, incoming) : '';
	}

	function add(files: File[]) {
		void added.add(
			files.filter((file) => !isRecipeFile(file)),
			(clip) => editDocument.add(clip.id),
			() => edit.rate
		);
	}
</script>

<svelte:head><title>{edit.name}, Idle Shimmer</title></svelte:head>
<UnsavedGuard saver={editDocument.saver} what="This edit" />
<RecipeDrop onrecipe={(recipe, cutId) => applyDropped(editDocument, recipe, cutId)} />
<EditBar {editDocument} />
<main class="screen">
	<h1 class="sr-only">{edit.name}</h1>
	{#if film}
		{#key film}
			<FilmPlayerPanel
				player={film}
				width={edit.width}
				height={edit.height}
				large={isLarge}
				onlarge={fillWithFilm}
				onclose={closePlayer}
				onaccent={edit.cuts.length ? accentAtPlayer : undefined}
			/>
		{/key}
	{/if}
	<div class="tools">
		{#if !film}
			<Button tip="Play the edit with its transitions (Space)" onclick={() => void playFilm()}
				>Play edit</Button
			>
		{/if}
		<BeatBar {editDocument} />
		<MusicBar {editDocument} {player} />
		<span class="flex items-center gap-2 text-quiet">
			<span class="small">Zoom</span>
			<NumberField
				label="Zoom"
				value={zoom}
				unit="×"
				low={1}
				high={MOST_ZOOM}
				step={0.5}
				rest={1}
				onchange={(next) => (zoom = next)}
			/>
		</span>
	</div>
	<EditFilm
		{editDocument}
		bind:zoom
		mostZoom={MOST_ZOOM}
		{player}
		{film}
		shown={shownClip}
		onshow={(id) => (shownClip = id)}
	/>
	{#if panelled}
		{@const placed = panelled}
		<ClipPanel
			{placed}
			place={edit.placed.indexOf(placed)}
			of={edit.placed.length}
			rate={edit.rate}
			onchange={(change) => editDocument.changePlaced(placed, change)}
			onsplit={(frame) => editDocument.split(placed, frame)}
			onaccent={edit.cuts.length ? (at) => chooseAccent({ placed, at }) : undefined}
			onremove={() => {
				shownClip = '';
				editDocument.remove(placed);
			}}
		/>
	{/if}
	<Boundary name="The list of cuts">
		<CutRows {editDocument} bind:alternate onapply={() => (choosing = true)} />
	</Boundary>
	<section class="add" aria-label="Add clips at the end">
		<DropFiles label="Drop clips here to add them at the end" onfiles={add} />
		<UploadList uploads={added} />
	</section>
</main>

{#if accentAt && edit.cuts[0]}
	{@const { placed, at } = accentAt}
	{@const cutId = (edit.cuts[edit.placed.indexOf(placed)] ?? edit.cuts[0]).id}
	<RecipeBook
		bind:open={choosingAccent}
		{cutId}
		rate={edit.rate}
		version={framesVersion(cutId)}
		fits={false}
		feel="accent"
		title="Accent in {placed.name}, at frame {at}"
		onapply={(entry) => editDocument.addAccent(placed, at, entry)}
	/>
{/if}
{#if editDocument.selection.ids[0]}
	<RecipeBook
		bind:open={choosing}
		cutId={editDocument.selection.ids[0]}
		rate={edit.rate}
		version={framesVersion(editDocument.selection.ids[0])}
		fits={editDocument.selection.ids.length === 1}
		title="Recipe for {counted(editDocument.selection.ids.length, 'cut')}"
		onapply={(entry) => void applyRecipe(editDocument, entry, alternate)}
	/>
{/if}

<style>
	.screen {
		display: flex;
		flex: 1;
		flex-direction: column;
		min-height: 0;
		gap: 8px;
		padding: 12px 24px;
		overflow: hidden auto;
	}
	.tools {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		justify-content: space-between;
		gap: 8px;
	}
	.add {
		flex: none;
	}
</style>
