<script setup lang="ts">
/** What a newer version of a received file would change. */
import type { ExchangeDifference } from '@/api/types'
import { formatNumber } from '@/lib/format'
import { sayLength } from '@/lib/units'
import { counted } from '@/lib/words'
import { useUi } from '@/stores/ui'

defineProps<{ told: ExchangeDifference }>()
const ui = useUi()
</script>

<template>
  {{ counted(told.points_before, 'point') }} before, {{ formatNumber(told.points_now, 0) }} now:
  {{ formatNumber(told.gone, 0) }} gone, {{ formatNumber(told.added, 0) }} added.
  {{ told.levels_changed
    ? `${formatNumber(told.levels_changed, 0)} have another level, by up to ${sayLength(told.greatest, 3)}.`
    : 'No level has changed.' }} {{ counted(told.lines_before, 'line') }} before, {{ formatNumber(told.lines_now, 0) }} now.
  <button v-if="told.place" class="link" @click="ui.goTo = { e: told.place[0], n: told.place[1] }">Show it</button>
</template>
