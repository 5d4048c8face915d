<script lang="ts">
	// The player of a whole edit: its picture, where it is, and how many pictures a second are shown.
	import { onDestroy, untrack } from 'svelte';
	import { hearing } from '$lib/sound/hearing.svelte';
	import Button from '$lib/ui/Button.svelte';
	import { timecode } from '$lib/ui/numbers';
	import { speedText } from '$lib/ui/shuttle';
	import { FilmPlayer } from './filmPlayer.svelte';

	type Props = {
		player: FilmPlayer;
		width: number;
		height: number;
		/** Whether the picture fills the screen. */
		large: boolean;
		onlarge: (large: boolean) => void;
		onclose: () => void;
		/** Put an accent where the player stands. */
		onaccent?: () => void;
	};
	let { player, width, height, large, onlarge, onclose, onaccent }: Props = $props();

	const PICTURE_PX = 270;
	/** What the controls take of a screen that is filled. */
	const CONTROLS_PX = 60;
	/** Fewer pictures than this share of the edit's rate are worth a word. */
	const FEW = 0.8;
	let canvas: HTMLCanvasElement;
	let speed = $derived(player.times ? speedText(player.times) : '');
	let isSlow = $derived(player.playing && player.shown < FEW * player.rate);

	$effect(() => {
		const { picture } = player;
		const context = canvas.getContext('2d');
		if (!picture || !context) return;
		if (canvas.width !== picture.width || canvas.height !== picture.height) {
			canvas.width = picture.width;
			canvas.height = picture.height;
		}
		context.drawImage(picture, 0, 0);
	});

	function onescape(event: KeyboardEvent) {
		if (event.key === 'Escape' && large) onlarge(false);
	}

	// Where the panel is closed, the screen has no player any more.
	const own = untrack(() => player);
	void own.seek(own.frame);
	onDestroy(() => own.pause());
</script>

<svelte:window onkeydown={onescape} />
<section class="player" class:large aria-label="Player">
	<canvas
		bind:this={canvas}
		data-testid="film"
		data-frame={player.frame}
		style:aspect-ratio="{width} / {height}"
		style:width={large
			? `min(100%, (100vh - ${CONTROLS_PX}px) * ${width / height})`
			: `${(PICTURE_PX * width) / height}px`}
		aria-label="Frame {player.frame} of the edit"
	></canvas>
	<div class="controls">
		<Button
			tip={player.playing
				? 'Pause (Space)'
				: 'Play the edit (Space). J K L: backward, stop, forward'}
			onclick={() => player.toggle()}>{player.playing ? 'Pause' : 'Play'}</Button
		>
		<input
			type="range"
			aria-label="Position"
			aria-valuetext={timecode(player.frame, player.rate)}
			min="0"
			max={Math.max(0, player.count - 1)}
			value={player.frame}
			oninput={(event) => void player.seek(Number(event.currentTarget.value))}
		/>
		<span class="figures">{timecode(player.frame, player.rate)}</span>
		<span class="figures small rate text-quiet"
			>{#if speed}{speed}{:else if isSlow}{player.shown} of {Math.round(player.rate)} fps{/if}</span
		>
		<Button
			pressed={hearing.on}
			tip="Play the sound of the edit"
			onclick={() => player.toggleSound()}>{hearing.on ? 'Sound on' : 'Sound off'}</Button
		>
		{#if onaccent}
			<Button tip="Choose a recipe that acts inside the clip, at this frame" onclick={onaccent}
				>Add accent here…</Button
			>
		{/if}
		<Button pressed={large} tip="Picture on the full screen (F)" onclick={() => onlarge(!large)}
			>Full screen</Button
		>
		<Button kind="bare" onclick={onclose}>Close</Button>
	</div>
</section>

<style>
	.player {
		display: flex;
		flex: none;
		flex-direction: column;
		align-items: center;
		gap: 6px;
		padding: 8px;
		border-radius: 6px;
		background: var(--color-surround);
	}
	.large {
		position: fixed;
		inset: 0;
		z-index: 30;
		justify-content: center;
		border-radius: 0;
	}
	canvas {
		background: var(--color-page);
	}
	.controls {
		display: flex;
		align-items: center;
		width: min(100%, 820px);
		gap: 10px;
	}
	input {
		flex: 1;
		min-width: 80px;
		height: 24px;
		accent-color: var(--color-seam);
	}
	.rate {
		min-width: 84px;
	}
</style>
