<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import { useOpenFindings } from '@/composables/useOpenFindings'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const roads = computed(() => bench.project.value?.roads ?? [])
const ledger = computed(() => bench.project.value?.ledger)
const { total: findings } = useOpenFindings(bench)
</script>

<template>
  <header class="top">
    <RouterLink to="/" class="brand" title="All projects"><img src="/ridge.svg" alt="" width="26" /> Ivory Ridge</RouterLink>
    <button class="btn quiet project" title="Project settings" data-test="project-name"
        @click="ui.panel = 'settings'">{{ bench.project.value?.name ?? '…' }}</button>
    <Select
      v-if="roads.length" :model-value="ui.roadId" :options="roads" option-label="name" option-value="id" aria-label="Road" class="road"
      size="small" data-test="road-select" :filter="roads.length > 8" auto-filter-focus reset-filter-on-hide
      empty-filter-message="no road of this name" @update:model-value="ui.roadId = $event"
    />
    <button class="find" data-test="find" @click="ui.panel = 'find'">Find or do… <kbd>Ctrl K</kbd></button>
    <button class="btn quiet" :disabled="!ledger?.undo || !bench.canEdit.value"
        :title="ledger?.undo ? `Undo: ${ledger.undo} (Ctrl Z)` : 'Nothing to undo'" aria-label="Undo" data-test="undo"
        @click="bench.step('undo')">↶</button>
    <button class="btn quiet" :disabled="!ledger?.redo || !bench.canEdit.value"
        :title="ledger?.redo ? `Redo: ${ledger.redo} (Ctrl Shift Z)` : 'Nothing to redo'" aria-label="Redo" data-test="redo"
        @click="bench.step('redo')">↷</button>
    <button class="btn quiet" title="Everything in the project: received, worked, issued" data-test="shelves"
        @click="ui.panel = 'shelves'">Shelves</button>
    <button class="btn quiet" data-test="ledger" @click="ui.panel = 'ledger'">Ledger</button>
    <button class="btn quiet" :class="{ flagged: findings }" data-test="findings" @click="ui.panel = 'findings'">⚑ {{ findings }}<span
        class="wide">&nbsp;{{ findings === 1 ? 'finding' : 'findings' }}</span></button>
    <span v-if="bench.here.value.length" class="here"
        :title="`${bench.here.value.join(', ')} ${bench.here.value.length === 1 ? 'is' : 'are'} in this project now`" data-test="here"><i
        v-for="name in bench.here.value.slice(0, 3)" :key="name">{{ name }}</i><i
        v-if="bench.here.value.length > 3">+{{ bench.here.value.length - 3 }}</i></span>
    <button class="btn quiet" title="People of this project" data-test="members"
        @click="ui.panel = 'members'">{{ bench.project.value?.user }}<span class="role">{{ bench.project.value?.role }}</span></button>
  </header>
</template>

<style scoped>
.top {
  display: flex; align-items: center; gap: 4px; height: 44px; padding: 0 10px; border-bottom: 1px solid var(--rule);
  background: var(--paper);
}
.brand {
  display: flex; gap: 8px; align-items: center; font-family: var(--sign); font-weight: 600; font-size: 16px; color: inherit;
  text-decoration: none; margin-right: 8px; white-space: nowrap;
}
.project { max-width: 190px; display: block; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.road { min-width: 120px; max-width: 230px; height: 30px; align-items: center; box-shadow: none; border-color: var(--rule); }
.road :deep(.p-select-label) { padding: 2px 4px 2px 10px; font-size: 13px; }
.find {
  margin-left: auto; width: 240px; border: 1px solid var(--rule); border-radius: 4px; background: var(--sheet); color: var(--faded);
  display: flex; justify-content: space-between; padding: 5px 10px; cursor: pointer; min-width: 120px;
}
kbd { font-family: inherit; font-size: 11px; }
.flagged { color: var(--madder); font-weight: 600; }
.here { display: flex; gap: 4px; margin: 0 4px; }
.here i {
  font-style: normal; font-size: 11px; padding: 2px 7px; border-radius: 9px; background: #e4efe9; color: #2f6b4f; max-width: 80px;
  overflow: hidden; text-overflow: ellipsis; white-space: nowrap;
}
.role { color: var(--faded); font-size: 11px; }
@media (max-width: 1150px) { .wide { display: none; } .find { width: 150px; } }
</style>
