<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import ConnectionStrip from '@/components/ConnectionStrip.vue'
import InspectorPanel from '@/components/InspectorPanel.vue'
import RouteBar from '@/components/RouteBar.vue'
import StageRail from '@/components/StageRail.vue'
import TopBar from '@/components/TopBar.vue'
import ViewMosaic from '@/components/ViewMosaic.vue'
import { useAddress } from '@/composables/useAddress'
import { useFocusBack } from '@/composables/useFocusBack'
import { provideWorkbench } from '@/composables/workbench'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import KeysHost from '@/components/KeysHost.vue'

const FindPanel = defineAsyncComponent(() => import('@/components/FindPanel.vue'))
const SidePanels = defineAsyncComponent(() => import('@/components/SidePanels.vue'))
const props = defineProps<{ projectId: number }>()
const bench = provideWorkbench(props.projectId)
const ui = useUi()
const look = useLook()
const missing = computed(() => bench.projectQuery.error.value as Error | null)
useAddress(bench)
useFocusBack()
</script>

<template>
  <div v-if="missing && !bench.project.value" class="missing"><p>{{ missing.message }}</p><RouterLink to="/">All projects</RouterLink></div>
  <div v-else class="bench" :class="{ wide: !look.inspectorOpen }">
    <KeysHost />
    <ConnectionStrip />
    <TopBar class="top" />
    <StageRail class="rail" />
    <ViewMosaic class="views" />
    <InspectorPanel v-if="look.inspectorOpen" class="side" />
    <RouteBar class="bar" />
    <FindPanel v-if="ui.panel === 'find'" />
    <SidePanels v-else-if="ui.panel" />
  </div>
</template>

<style scoped>
.bench { height: 100%; display: grid; grid-template: 44px minmax(0, 1fr) 66px / 84px minmax(0, 1fr) 288px; }
.bench.wide { grid-template-columns: 84px minmax(0, 1fr) 0; }
.top, .bar { grid-column: 1 / -1; }
.missing { display: grid; place-content: center; height: 100%; text-align: center; gap: 8px; }
</style>
