<script lang="ts">
	// A field for text. `onenter` is called with Enter, `onchange` when a changed text is left.
	import { Input } from 'flowbite-svelte';
	import type { FullAutoFill } from 'svelte/elements';

	type Props = {
		label: string;
		type?: 'text' | 'password';
		autocomplete?: FullAutoFill;
		value?: string;
		placeholder?: string;
		maxlength?: number;
		class?: string;
		autofocus?: boolean;
		invalid?: boolean;
		onenter?: () => void;
		onchange?: (value: string) => void;
		oninput?: () => void;
		onblur?: () => void;
	};
	let {
		label,
		type = 'text',
		value = $bindable(''),
		class: extra = '',
		autofocus = false,
		invalid = false,
		onenter,
		onchange,
		...rest
	}: Props = $props();

	let field = $state<HTMLInputElement>();

	$effect(() => {
		if (autofocus) field?.focus();
	});
</script>

<span class="inline-block max-w-full {extra}">
	<Input
		{...rest}
		{type}
		aria-label={label}
		aria-invalid={invalid ? 'true' : undefined}
		class="font-[inherit] placeholder:text-quiet focus:border-seam focus:ring-0 {invalid
			? 'border-failed'
			: ''}"
		bind:value
		bind:elementRef={field}
		onchange={(event) => onchange?.(event.currentTarget.value)}
		onkeydown={(event) => event.key === 'Enter' && onenter?.()}
	/>
</span>
