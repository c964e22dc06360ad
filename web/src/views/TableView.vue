<script setup lang="ts">
import { defineAsyncComponent } from 'vue'
import EarthworkTable from '@/components/EarthworkTable.vue'
import PITable from '@/components/PITable.vue'
import StageTables from '@/components/StageTables.vue'
import ViewFrame from '@/components/ViewFrame.vue'
import { useWorkbench } from '@/composables/workbench'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const SheetTable = defineAsyncComponent(() => import('@/components/SheetTable.vue'))
const ui = useUi()
const look = useLook()
const bench = useWorkbench()
const TITLES = { line: 'Table', earthwork: 'Areas and volumes', sheets: 'Sheets' } as Record<string, string>
</script>

<template>
  <ViewFrame id="table" :title="TITLES[ui.stage] ?? 'Table'">
    <template #tools>
      <StageTables />
      <template v-if="ui.stage === 'earthwork' && bench.design.value?.earthwork">
        <a class="btn quiet"
            :href="
              `/api/roads/${ui.roadId}/volumes.csv?way=${look.volumeWay}` +
              (ui.range ? `&station_from=${ui.range[0]}&station_to=${ui.range[1]}` : '')
            "
            data-test="volumes-csv">Download CSV</a>
        <button class="btn quiet" data-test="volumes-report" @click="ui.panel = 'volumes'">Report</button>
      </template>
      <button v-if="ui.stage === 'line' && bench.design.value?.line" class="btn quiet" data-test="reports"
          @click="ui.panel = 'reports'">Reports</button>
      <a v-if="ui.stage === 'line' && bench.design.value?.line" class="btn quiet" :href="`/api/projects/${bench.projectId}/landxml`"
          data-test="landxml">LandXML</a>
      <template v-if="ui.stage === 'line' && bench.design.value?.line"><a class="btn quiet" :href="`/api/projects/${bench.projectId}/ifc`"
          data-test="ifc" title="Lines and profiles as IFC 4.3 alignments">IFC</a><a class="btn quiet"
          :href="`/api/projects/${bench.projectId}/lines.dxf?scale=${look.annotation.scale}`" data-test="lines-dxf"
          title="Lines, profiles in space and chainages">DXF</a></template>
    </template>
    <div class="scroll" tabindex="0" role="region" :aria-label="TITLES[ui.stage] ?? 'Table'">
      <PITable v-if="ui.stage === 'line'" />
      <EarthworkTable v-else-if="ui.stage === 'earthwork'" />
      <SheetTable v-else-if="ui.stage === 'sheets'" />
    </div>
  </ViewFrame>
</template>

<style scoped>
.scroll { position: absolute; inset: 0; overflow: auto; }
a.btn { text-decoration: none; color: inherit; }
</style>
