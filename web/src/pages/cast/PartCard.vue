<script setup lang="ts">
/** One part: its voice, how it speaks, who may use it, its mouth. */
import { ElCheckbox, ElOption, ElSlider, ElSwitch } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import { fileChoices } from '@/logic/choices'
import { sayThroat, voiceChoices } from '@/logic/voices'
import { ROLE_NAMES } from '@/api/kinds'
import PickField from '@/parts/PickField.vue'

type Part = Schemas['Part']
const props = defineProps<{ part: Part; voices: Schemas['Voices'] | null; open: boolean }>()
defineEmits<{ toggle: [] }>()
const book = useBook()
const base = computed(() => props.part.base.split('+')[0] ?? 'en-gb')
const variant = computed(() => props.part.base.split('+')[1] ?? '')
const pictures = computed(() => book.media.filter((m) => m.kind === 'picture'))
const faces = computed(() => [{ value: '', name: 'none' }, ...fileChoices(pictures.value)])
const ROLES = Object.entries(ROLE_NAMES) as [Part['who'][number], string][]
const MOUTHS = ['closed', 'half open', 'wide']
const poster = computed(() => book.mediaById.get(props.part.mouths[0] ?? '')?.poster)

function set(fields: Partial<Part>): Promise<unknown> {
  return attempt(() => book.put('cast', { ...props.part, ...fields }))
}

function setBase(language: string, throat: string): void {
  void set({ base: throat ? `${language}+${throat}` : language })
}

function toggle<K extends 'may' | 'who'>(key: K, value: Part[K][number], on: boolean): void {
  const rest = (props.part[key] as string[]).filter((v) => v !== value && v !== 'everyone')
  const next = on ? (value === 'everyone' ? ['everyone'] : [...rest, value]) : rest
  void set({ [key]: key === 'who' && !next.length ? ['everyone'] : next } as Partial<Part>)
}

/** A slider's position while it is moved: saved on release. */
const slid = ref<Partial<Record<'rate' | 'pitch' | 'volume', number>>>({})
watch(
  () => props.part,
  () => (slid.value = {}),
)

const choices = computed(() => voiceChoices(props.voices?.voices ?? [], navigator.language))
const plays = ref(false)

/** A line in this part's voice, only for the streamer. */
async function listen(): Promise<void> {
  plays.value = true
  await attempt(async () => {
    const body = {
      text: 'Mind the gap, please.',
      part: props.part.id,
      viewer: 'hopper_kit',
      roles: [],
      tier: 1,
      sound: true,
    }
    const heard = await got(api.POST('/api/cast/bench', { body }))
    const url = heard.sound?.url
    if (typeof url === 'string') await new Audio(url).play()
    else say(heard.turned_away || 'Nothing to play.', 'wrong')
  })
  plays.value = false
}

function setMouth(i: number, id: string): void {
  const mouths = [...props.part.mouths]
  if (id) mouths[i] = id
  else mouths.splice(i)
  void set({ mouths: mouths.filter(Boolean) })
}
</script>

<template>
  <article class="card part" :class="{ off: !part.on }" :data-part="part.id">
    <div class="row">
      <img v-if="poster" :src="poster" alt="" class="face" />
      <button class="btn bare name" @click="$emit('toggle')">{{ part.name }}</button>
      <span class="soft small grow cut-off"
        >{{ voices?.voices.find((v) => v.id === base)?.name ?? base
        }}{{ part.effect ? `, ${part.effect}` : '' }}</span
      >
      <span v-if="!part.on" class="small wrong">off</span>
      <ElSwitch
        :model-value="part.on"
        :aria-label="`${part.name} reads`"
        @update:model-value="set({ on: Boolean($event) })"
      />
    </div>
    <template v-if="open">
      <div class="two">
        <label class="field"
          >Name<input
            class="well"
            :value="part.name"
            @change="set({ name: ($event.target as HTMLInputElement).value.trim() || part.name })"
        /></label>
        <label class="field"
          >Base voice<span class="listen"
            ><PickField
              :model-value="base"
              :choices="choices"
              data-test="base-voice"
              @update:model-value="setBase(String($event), variant)"
            /><button class="btn tiny" type="button" data-test="listen" :disabled="plays" @click="listen">
              Listen
            </button></span
          ></label
        >
        <label class="field"
          >Voice type<PickField :model-value="variant" @update:model-value="setBase(base, $event)">
            <ElOption value="" label="default" />
            <ElOption
              v-for="one in voices?.variants ?? []"
              :key="one"
              :value="one"
              :label="sayThroat(one)"
            /> </PickField
        ></label>
        <label class="field"
          >Effect<PickField :model-value="part.effect" @update:model-value="set({ effect: $event })">
            <ElOption value="" label="none" />
            <ElOption v-for="one in voices?.effects ?? []" :key="one" :value="one" :label="one" /> </PickField
        ></label>
      </div>
      <div class="three">
        <label
          v-for="[key, name, least, most] in [
            ['rate', 'Pace', 0.25, 4],
            ['pitch', 'Pitch', 0, 2],
            ['volume', 'Volume', 0, 100],
          ] as const"
          :key="key"
          class="field"
          >{{ name }} {{ part[key]
          }}<ElSlider
            :model-value="slid[key] ?? part[key]"
            :min="least"
            :max="most"
            :step="key === 'volume' ? 1 : 0.05"
            @update:model-value="slid[key] = Number($event)"
            @change="set({ [key]: Number($event) })"
        /></label>
      </div>
      <fieldset class="small">
        <legend class="soft">Effects for viewers</legend>
        <ElCheckbox
          v-for="one in voices?.effects ?? []"
          :key="one"
          :model-value="part.may.includes(one as Part['may'][number])"
          @update:model-value="toggle('may', one as Part['may'][number], Boolean($event))"
          >{{ one }}</ElCheckbox
        >
      </fieldset>
      <fieldset class="small">
        <legend class="soft">Available to</legend>
        <ElCheckbox
          v-for="[role, name] in ROLES"
          :key="role"
          :model-value="part.who.includes(role)"
          @update:model-value="toggle('who', role, Boolean($event))"
          >{{ name }}</ElCheckbox
        >
      </fieldset>
      <div class="two">
        <label v-for="(name, i) in MOUTHS" :key="name" class="field"
          >Mouth {{ name
          }}<PickField
            :model-value="part.mouths[i] ?? ''"
            :disabled="i > part.mouths.length"
            :choices="faces"
            @update:model-value="setMouth(i, $event)"
        /></label>
        <label class="field"
          >Blink<PickField
            :model-value="part.blink ?? ''"
            :choices="faces"
            @update:model-value="set({ blink: $event || null })"
        /></label>
      </div>
      <button class="btn tiny danger" @click="attempt(() => book.remove('cast', part.id))">
        Remove part
      </button>
    </template>
  </article>
</template>

<style scoped>
.listen {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 6px;
}

.part {
  display: grid;
  gap: 8px;
  justify-items: stretch;
}

.off .name {
  opacity: 0.55;
}

.face {
  width: 34px;
  height: 34px;
  object-fit: contain;
}

.name {
  font: 640 18px var(--display);
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}

.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 18px;
}

fieldset {
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 2px 10px;
}

.wrong {
  color: var(--berry);
}

.danger {
  justify-self: end;
}

@media (max-width: 1120px) {
  .three {
    grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  }
}
</style>
