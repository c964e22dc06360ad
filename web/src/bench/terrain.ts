/** The shown surface's triangles and contours. */
import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, type Packed } from '@/api/client'
import type { SurfaceRow } from '@/api/types'
import { useLook } from '@/stores/look'

export function useTerrain(surface: Ref<SurfaceRow | null>) {
  const look = useLook()
  const shared = {
    enabled: computed(() => !!surface.value?.sources.length),
    staleTime: Infinity,
    structuralSharing: false,
    placeholderData: (before: Packed | undefined) => before,
  }
  const terrainQuery = useQuery({
    queryKey: computed(() => ['terrain', surface.value?.key]),
    queryFn: () => api.geometry(`/surfaces/${surface.value!.id}/geometry`),
    ...shared,
  })
  const contoursQuery = useQuery({
    queryKey: computed(() => ['contours', surface.value?.key, look.contourStep, look.contours.rounded]),
    queryFn: () => api.geometry(`/surfaces/${surface.value!.id}/contours?interval=${look.contourStep}&rounded=${look.contours.rounded}`),
    ...shared,
  })
  const terrain = computed<Packed | null>(() => (surface.value?.sources.length ? (terrainQuery.data.value ?? null) : null))
  const contours = computed<Packed | null>(() => (surface.value?.sources.length ? (contoursQuery.data.value ?? null) : null))
  return { terrain, terrainQuery, contours, contoursQuery }
}
