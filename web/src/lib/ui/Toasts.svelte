<script lang="ts">
	import { Toast } from 'flowbite-svelte';
	import { toast } from './toast.svelte';
</script>

<div class="fixed right-4 bottom-10 z-50 flex w-96 flex-col gap-2" role="status" aria-live="polite">
	{#each toast.list as notice (notice.id)}
		<Toast
			class="w-full max-w-none! border border-line bg-panel! p-3! text-ink! shadow-lg"
			dismissable={false}
		>
			<div class="flex items-start gap-2">
				<span class={notice.kind === 'error' ? 'text-failed' : 'text-quiet'} aria-hidden="true">
					{notice.kind === 'error' ? '▮' : '✓'}
				</span>
				<p class="flex-1 text-[13px] break-words text-ink">{notice.text}</p>
				{#if notice.action}
					{@const action = notice.action}
					<button
						class="plain-button"
						onclick={() => {
							action.run();
							toast.close(notice.id);
						}}>{action.label}</button
					>
				{/if}
				<button
					class="bare-button"
					aria-label="Close this message"
					onclick={() => toast.close(notice.id)}>✕</button
				>
			</div>
		</Toast>
	{/each}
</div>
