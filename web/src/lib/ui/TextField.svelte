<script lang="ts">
	// A field for text. `onenter` is called with Enter, `onchange` when a changed text is left.
	import { Input } from 'flowbite-svelte';

	type Props = {
		label: string;
		value?: string;
		placeholder?: string;
		maxlength?: number;
		class?: string;
		autofocus?: boolean;
		invalid?: string;
		onenter?: () => void;
		onchange?: (value: string) => void;
		oninput?: () => void;
		onblur?: () => void;
	};
	let {
		label,
		value = $bindable(''),
		class: extra = '',
		autofocus = false,
		invalid = '',
		onenter,
		onchange,
		oninput,
		onblur,
		...rest
	}: Props = $props();

	function onkeydown(event: KeyboardEvent) {
		if (event.key === 'Enter') onenter?.();
	}
	function focused(element: HTMLElement) {
		if (autofocus) element.focus();
	}
</script>

<Input {...rest} bind:value>
	{#snippet children(attributes)}
		<input
			{...attributes}
			type="text"
			class="{attributes.class ??
				''} h-[26px] rounded-md border-edge bg-page px-2 py-0 text-[12px] text-ink placeholder:text-quiet focus:border-seam focus:ring-0 {invalid
				? 'border-failed'
				: ''} {extra}"
			aria-label={label}
			aria-invalid={invalid ? 'true' : undefined}
			bind:value
			{oninput}
			{onblur}
			onchange={(event) => onchange?.(event.currentTarget.value)}
			{onkeydown}
			{@attach focused}
		/>
	{/snippet}
</Input>
