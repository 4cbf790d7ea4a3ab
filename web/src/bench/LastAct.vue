<script setup lang="ts">
import { computed, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import { useUndo } from '@/composables/useUndo'
import { askUndo, askWork, noteOrTry } from './acts'

/** Under the figure: the act just done with the key that takes it back, and the way to note what was mended. */
const job = useJob()
const route = useRoute()
const probing = computed(() => route.name === 'probe' || route.name === 'prove')
const { again, busy, last, redo, refusal, undo, undone } = useUndo()
const said = computed(() => refusal.value?.message ?? (undone.value ? `Taken back: ${undone.value}` : null))
watch(last, (now, before) => {
  // The next act is what is spoken of.
  if (now && (!before || now.fact > before.fact)) undone.value = null
})
watch(askUndo, () => void undo())
useShortcuts(() => [
  ...(last.value ? [{ key: 'u', does: `take back: ${last.value.words}`, run: () => void undo() }] : []),
  ...(again.value ? [{ key: 'a', does: `do again: ${again.value.words}`, run: () => void redo() }] : []),
  ...(job.value.assessment.frozen ? [] : [{ key: 'n', does: 'note what was said or seen', run: () => void (noteOrTry.value = 'note') }]),
  // While probing this key is the probes'.
  ...(job.value.assessment.closed === null && !probing.value ? [{ key: 't', does: 'note what was tried, and what came of it', run: () => void (noteOrTry.value = 'try') }] : []),
  ...(job.value.assessment.closed === null ? [{ key: 'w', does: 'note what was mended, cleaned or put in', run: () => askWork() }] : []),
])
</script>

<template>
  <div class="last">
    <p role="status">
      <button v-if="last" type="button" class="back" :disabled="busy" :title="`take back: ${last.words}`" @click="undo()"><kbd>u</kbd> <span class="words">{{ said ?? last.words }}</span></button>
      <span v-else class="words muted">{{ said ?? '' }}</span>
      <button v-if="again" type="button" :disabled="busy" :title="`do again: ${again.words}`" @click="redo()"><kbd>a</kbd> do again</button>
    </p>
    <p v-if="!job.assessment.frozen">
      <button type="button" @click="noteOrTry = 'note'"><kbd>n</kbd> note</button>
      <button v-if="job.assessment.closed === null" type="button" @click="noteOrTry = 'try'"><kbd v-if="!probing">t</kbd> try</button>
      <button v-if="job.assessment.closed === null" type="button" @click="askWork()"><kbd>w</kbd> mended</button>
    </p>
  </div>
</template>

<style scoped>
.last {
  border-top: 1px solid var(--rule);
}

p {
  align-items: stretch;
  display: flex;
  gap: 6px;
  min-height: 44px;
}

button {
  align-items: center;
  background: none;
  border: 0;
  color: var(--petrol);
  cursor: pointer;
  display: flex;
  font: inherit;
  gap: 8px;
  min-width: 44px;
  padding: 0 3px;
}

.back {
  min-width: 0;
}

.words {
  align-self: center;
  color: var(--ink);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

</style>
