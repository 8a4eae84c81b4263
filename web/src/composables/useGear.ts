/** What the gear has and shows: its catalogue, its state, its picture. Fetched again when the gear reports a change. */
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { GEAR_KINDS, type GearKindName } from '@/api/kinds'
import { useLive } from './useLive'

export type GearState = Schemas['GearOut']
export type GearKind = Schemas['GearKindOut']
export type Catalogue = Schemas['CatalogueOut']
export type SettingKind = Schemas['SettingOut']

export const useGear = defineStore('gear', () => {
  const live = useLive()
  const gear = shallowRef<GearState[]>([])
  const catalogue = shallowRef<Record<string, Catalogue>>({})
  const asked = ref(0)
  /** All kinds of gear, including those from plug-ins. */
  const kinds = shallowRef<GearKind[]>([])
  void got(api.GET('/api/gear/kinds')).then(
    (told) => (kinds.value = told),
    () => undefined,
  )

  /** A kind by its name; one with a missing plug-in is called as in the book. */
  function kindOf(name: string): GearKind {
    const known = kinds.value.find((kind) => kind.name === name)
    if (known) return known
    const own = GEAR_KINDS[name as GearKindName] as (typeof GEAR_KINDS)[GearKindName] | undefined
    return { title: name, mark: 'things', scheme: '', secret: '', tells: true, many: true, ...own, name }
  }

  async function load(): Promise<void> {
    const [rows, known] = await Promise.all([
      got(api.GET('/api/gear')).catch(() => gear.value),
      got(api.GET('/api/gear/catalogue')).catch(() => catalogue.value),
    ])
    gear.value = rows
    catalogue.value = known
    asked.value += 1
  }

  const signs = computed(() =>
    (live.state?.gear ?? []).map((row) => `${row.id} ${row.state} ${row.serial ?? 0} ${row.problem}`).join(),
  )
  let timer = 0
  watch(
    signs,
    () => {
      window.clearTimeout(timer)
      timer = window.setTimeout(() => void load(), 120)
    },
    { immediate: true },
  )

  const broadcast = computed<Catalogue | null>(() => catalogue.value.broadcaster ?? null)
  const broadcaster = computed(() => live.state?.gear.find((row) => row.kind === 'broadcaster') ?? null)
  /** The address of what the broadcaster shows now; none while it is disconnected. */
  const programme = computed(() => {
    const row = broadcaster.value
    return row && row.state !== 'away' && row.state !== 'off'
      ? `/api/gear/${row.id}/picture?n=${row.serial}`
      : null
  })

  return { gear, catalogue, kinds, kindOf, broadcast, broadcaster, programme, load }
})
