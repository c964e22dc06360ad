<script setup lang="ts">
/** The panels that open over the work: ledger, findings, keys, people, settings. */
import Dialog from 'primevue/dialog'
import { computed, defineAsyncComponent as later } from 'vue'
import { useUi } from '@/stores/ui'
import FindingsList from './FindingsList.vue'
import KeysList from './KeysList.vue'
import MembersList from './MembersList.vue'
import SettingsForm from './SettingsForm.vue'

const ui = useUi()
const PANELS = {
  ledger: { title: 'Ledger', part: later(() => import('./LedgerList.vue')) },
  findings: { title: 'Findings', part: FindingsList },
  keys: { title: 'Keys', part: KeysList },
  members: { title: 'People', part: MembersList },
  settings: { title: 'Project settings', part: SettingsForm },
  shelves: { title: 'Shelves', part: later(() => import('./ShelvesList.vue')), width: '960px' },
  volumes: { title: 'Earthwork report', part: later(() => import('./EarthworkReport.vue')), width: '1000px' },
  reports: { title: 'Line reports', part: later(() => import('./LineReports.vue')), width: '1000px' },
} as const
const open = computed(() => (ui.panel && ui.panel !== 'find' ? PANELS[ui.panel] : null))
</script>

<template>
  <Dialog v-if="open" visible modal dismissable-mask :header="open.title" :pt="{ content: { tabindex: 0 } }"
      :style="{ width: 'width' in open ? open.width : '520px', maxWidth: '96vw' }" @update:visible="ui.panel = ''"><component
      :is="open.part" /></Dialog>
</template>
