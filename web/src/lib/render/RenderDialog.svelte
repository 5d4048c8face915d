<script lang="ts">
	// The dialog that asks what to render and how. What is chosen is remembered by the server.
	import { createQuery, keepPreviousData, useQueryClient } from '@tanstack/svelte-query';
	import { Radio } from 'flowbite-svelte';
	import { api, request, type Render } from '$lib/api/client';
	import { STATUS_MARK } from '$lib/recipe/checkStatus';
	import Button from '$lib/ui/Button.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';
	import Failure from '$lib/ui/Failure.svelte';
	import NumberField from '$lib/ui/NumberField.svelte';
	import Select from '$lib/ui/Select.svelte';
	import Switch from '$lib/ui/Switch.svelte';
	import TextField from '$lib/ui/TextField.svelte';
	import {
		estimateText,
		hasHandles,
		nameField,
		nameParts,
		newRender,
		QUALITIES,
		sizeItems,
		WHATS,
		type Choice,
		type Subject
	} from './renderChoice';

	type Problem = { status: 'warning' | 'failed'; text: string };
	type Props = {
		open: boolean;
		subject: Subject;
		/** The edit's frame size. */
		width: number;
		height: number;
		/** Unresolved checks, worst first. */
		problems: Problem[];
		/** Does the work once everything is saved; null where it cannot be saved. */
		afterSaving: <T>(work: () => Promise<T>) => Promise<T | null>;
		onrendering: (render: Render) => void;
	};
	let {
		open = $bindable(),
		subject,
		width,
		height,
		problems,
		afterSaving,
		onrendering
	}: Props = $props();

	const MAX_HANDLES = 100;
	const MOST_PROBLEMS = 3;
	const client = useQueryClient();
	let changes = $state<Partial<Choice>>({});
	let problem = $state('');
	let sending = $state(false);

	const choices = createQuery(() => ({
		queryKey: ['render-choices', width, height],
		queryFn: () =>
			request(api.GET('/api/renders/choices', { params: { query: { width, height } } })),
		enabled: open
	}));
	let formats = $derived(choices.data?.formats ?? []);
	let whats = $derived(WHATS.filter(({ value }) => subject.cut || value !== 'window'));
	let choice = $derived(choices.data ? completed({ ...choices.data.last, ...changes }) : null);
	let format = $derived(formats.find(({ id }) => id === choice?.format));
	let offered = $derived(formats.filter((each) => choice?.what !== 'round_trip' || each.is_video));
	let qualities = $derived(
		(format?.qualities ?? []).map((value) => ({ value, name: QUALITIES[value] ?? value }))
	);

	const estimate = createQuery(() => ({
		queryKey: ['render-estimate', subject, choice],
		queryFn: () => {
			if (!choice) throw new Error('Nothing is chosen yet.');
			const body = newRender(subject, choice);
			return afterSaving(() => request(api.POST('/api/renders/estimate', { body })));
		},
		enabled: open && choice !== null,
		placeholderData: keepPreviousData,
		retry: false,
		gcTime: 0
	}));
	let refused = $derived(problem || (estimate.error?.message ?? ''));

	/** A choice that fits together: from an edit no single window, in a round trip no pictures. */
	function completed(wanted: Choice): Choice {
		const found = { ...wanted };
		if (subject.cut && changes.what === undefined) found.what = 'window';
		if (!subject.cut && found.what === 'window') found.what = 'edit';
		const isVideo = formats.find(({ id }) => id === found.format)?.is_video ?? true;
		if (found.what === 'round_trip' && !isVideo) found.format = 'prores';
		return found;
	}

	function set(change: Partial<Choice>) {
		problem = '';
		changes = { ...changes, ...change };
	}

	async function start() {
		if (!choice || sending) return;
		sending = true;
		problem = '';
		try {
			const body = newRender(subject, choice);
			const made = await afterSaving(() => request(api.POST('/api/renders', { body })));
			if (!made) {
				problem = 'The changes are not saved yet. Try again when they are.';
				return;
			}
			await client.invalidateQueries({ queryKey: ['render-choices'] });
			void client.invalidateQueries({ queryKey: ['activity'] });
			changes = {};
			open = false;
			onrendering(made);
		} catch (error) {
			problem = (error as Error).message;
		} finally {
			sending = false;
		}
	}
</script>

<Dialog bind:open title="Render" size="md">
	{#if choices.error}
		<Failure error={choices.error} />
	{:else if !choice}
		<p class="text-quiet">Loading choices…</p>
	{:else}
		<form
			class="flex flex-col gap-4"
			onsubmit={(event) => {
				event.preventDefault();
				void start();
			}}
		>
			<fieldset class="flex flex-col gap-1">
				<legend class="mb-1 text-quiet">What</legend>
				{#each whats as { value, name, about } (value)}
					<Radio
						name="what"
						{value}
						class="items-start gap-1 font-normal text-ink"
						group={choice.what}
						onchange={() => set({ what: value })}
					>
						<span
							><span>{name}</span>
							<span class="small block text-quiet">{about}</span></span
						>
					</Radio>
				{/each}
			</fieldset>
			<div class="fields">
				<span class="text-quiet">Format</span>
				<Select
					label="Format"
					wide
					value={choice.format}
					items={offered.map(({ id, name }) => ({ value: id, name }))}
					onchange={(next) => set({ format: next })}
				/>
				<span class="text-quiet">Quality</span>
				{#if qualities.length}
					<Select
						label="Quality"
						wide
						value={choice.quality}
						items={qualities}
						onchange={(next) => set({ quality: next as Choice['quality'] })}
					/>
				{:else}
					<span>{format?.id === 'prores' ? 'One quality, nearly lossless' : 'Lossless'}</span>
				{/if}
				<span class="text-quiet">Size</span>
				<Select
					label="Size"
					wide
					value={choice.size}
					items={sizeItems(choices.data?.sizes ?? [])}
					onchange={(size) => set({ size })}
				/>
				{#if hasHandles(choice.what)}
					<span class="text-quiet">Handles</span>
					<span class="flex items-center gap-2">
						<NumberField
							label="Handles"
							value={choice.handles}
							unit="frames"
							low={0}
							high={MAX_HANDLES}
							onchange={(handles) => set({ handles })}
						/>
						<span class="small text-quiet">untreated, on each side of a window</span>
					</span>
				{/if}
				<span class="text-quiet">Sound</span>
				<Switch label="Sound" on={choice.sound} onchange={(sound) => set({ sound })} />
				{#if choice.sound && format?.holds_sound_tracks && choice.what !== 'round_trip'}
					<span class="text-quiet">Accents</span>
					<Select
						label="Accents"
						wide
						value={choice.accents_apart ? 'apart' : 'mixed'}
						items={[
							{ value: 'mixed', name: 'Mixed with the rest' },
							{ value: 'apart', name: 'A sound track of their own' }
						]}
						onchange={(next) => set({ accents_apart: next === 'apart' })}
					/>
				{/if}
				<span class="text-quiet">File name</span>
				<span class="flex min-w-0 flex-col gap-1">
					<TextField
						label="File name"
						class="w-full"
						maxlength={200}
						value={choice[nameField(choice.what)]}
						onchange={(name) => name.trim() && set({ [nameField(choice.what)]: name.trim() })}
					/>
					<span class="small text-quiet">Can have {nameParts(choice.what).join(', ')}</span>
				</span>
			</div>
			{#if problems.length}
				<ul class="small flex flex-col gap-1" aria-label="Unresolved checks">
					{#each problems.slice(0, MOST_PROBLEMS) as { status, text } (text)}
						<li class={status === 'failed' ? 'text-failed' : 'text-warning'}>
							<span aria-hidden="true">{STATUS_MARK[status]}</span>
							{text}
						</li>
					{/each}
					{#if problems.length > MOST_PROBLEMS}
						<li class="text-quiet">and {problems.length - MOST_PROBLEMS} more</li>
					{/if}
				</ul>
			{/if}
			<div class="estimate" aria-live="polite">
				{#if refused}
					<p class="text-failed"><span aria-hidden="true">▮</span> {refused}</p>
				{:else if estimate.data}
					<p class="break-words text-ink">{estimate.data.file_name}</p>
					<p class="figures small text-quiet">{estimateText(estimate.data)}</p>
				{:else}
					<p class="small text-quiet">Estimating size and time…</p>
				{/if}
			</div>
			<div class="flex justify-end gap-2">
				<Button onclick={() => (open = false)}>Cancel</Button>
				<Button kind="strong" type="submit" disabled={sending || !!estimate.error}>Render</Button>
			</div>
		</form>
	{/if}
</Dialog>

<style>
	.fields {
		display: grid;
		grid-template-columns: 88px minmax(0, 1fr);
		align-items: center;
		gap: 8px 12px;
	}
	.estimate {
		min-height: 40px;
	}
</style>
