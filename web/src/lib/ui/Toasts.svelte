<script lang="ts">
	// Messages that come and go, and announcements for screen readers.
	import { Toast } from 'flowbite-svelte';
	import { announcer } from './announce.svelte';
	import Button from './Button.svelte';
	import { toast } from './toast.svelte';
</script>

<div class="sr-only" role="status" aria-live="polite">{announcer.text}</div>
<div class="fixed right-4 bottom-10 z-50 flex w-96 max-w-[calc(100vw-2rem)] flex-col gap-2">
	{#each toast.list as notice (notice.id)}
		<Toast
			class="w-full max-w-none border border-edge bg-panel p-3 text-ink shadow-lg"
			role={notice.kind === 'error' ? 'alert' : 'status'}
			dismissable={false}
			params={{ duration: 0 }}
		>
			<div class="flex items-start gap-2">
				<span class={notice.kind === 'error' ? 'text-failed' : 'text-quiet'} aria-hidden="true">
					{notice.kind === 'error' ? '▮' : '✓'}
				</span>
				<p class="min-w-0 flex-1 text-[13px] break-words text-ink">{notice.text}</p>
				{#if notice.action}
					{@const action = notice.action}
					<Button
						onclick={() => {
							action.run();
							toast.close(notice.id);
						}}>{action.label}</Button
					>
				{/if}
				<Button kind="bare" aria-label="Close this message" onclick={() => toast.close(notice.id)}
					>✕</Button
				>
			</div>
		</Toast>
	{/each}
</div>
