<script setup lang="ts">
/** What counts over everything: cooldowns, lengths, loudness, flash safety, viewers who are never let in. */
import { ElCheckbox, ElMessageBox, ElOption } from 'element-plus'
import { computed } from 'vue'
import type { Book } from '@/api/client'
import { AIR_NAMES } from '@/api/kinds'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import DurationField from '@/parts/DurationField.vue'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const book = useBook()
const house = computed(() => book.book?.house)

function set(fields: Partial<Book['house']>): Promise<unknown> {
  return attempt(() => book.putHouse(fields))
}

const TIMES: [keyof Book['house'], string][] = [
  ['cooldown_s', 'Cooldown of a cue'],
  ['viewer_cooldown_s', 'Cooldown of a viewer'],
  ['still_s', 'A still picture is up for'],
  ['open_cap_s', 'Left open at most'],
  ['extend_cap_s', 'Made longer at most to'],
  ['haptics_most_s', 'Felt without a pause at most'],
  ['haptics_pause_s', 'That pause'],
  ['late_s', 'An event later than this does not fire'],
]

/** Off only after two questions: what flashes can harm people. */
async function guard(on: boolean): Promise<void> {
  if (!on) {
    try {
      const first =
        'Flashes of more than three a second can cause seizures in people who watch. Turn the guard off?'
      await ElMessageBox.confirm(first, 'Flash guard', {
        confirmButtonText: 'Go on',
        cancelButtonText: 'Leave it on',
      })
      const second = 'It is then up to you alone what flashes on your stream. Really off?'
      await ElMessageBox.confirm(second, 'Flash guard', {
        confirmButtonText: 'Turn it off',
        cancelButtonText: 'Leave it on',
        confirmButtonClass: 'danger',
      })
    } catch {
      return
    }
  }
  await set({ flash_guard: on })
}

function shutOut(text: string): void {
  void set({ shut_out: [...new Set(text.split(/[,\n]/).map((name) => name.trim()))].filter(Boolean) })
}
</script>

<template>
  <section v-if="house" class="card house" data-test="house">
    <h2>House</h2>
    <div class="grid">
      <label v-for="[key, name] in TIMES" :key="key" class="field"
        >{{ name
        }}<DurationField :model-value="Number(house[key])" @update:model-value="set({ [key]: $event })"
      /></label>
      <label class="field">
        A viewer’s text has at most
        <span class="row">
          <NumberField
            :model-value="house.most_text"
            :least="10"
            :most="5000"
            :step="50"
            whole
            aria-label="A viewer’s text has at most so many characters"
            data-test="most-text"
            @update:model-value="set({ most_text: $event })"
          />
          characters
        </span>
      </label>
      <label class="field">
        A viewer’s name is cut after
        <span class="row">
          <NumberField
            :model-value="house.most_name"
            :least="5"
            :most="200"
            whole
            aria-label="A viewer’s name is cut after so many characters"
            data-test="most-name"
            @update:model-value="set({ most_name: $event })"
          />
          characters
        </span>
      </label>
      <label class="field">
        Cues can be called
        <PickField
          :model-value="house.air"
          data-test="house-air"
          @update:model-value="set({ air: $event as Book['house']['air'] })"
        >
          <ElOption v-for="(name, air) in AIR_NAMES" :key="air" :value="air" :label="name" />
        </PickField>
      </label>
      <label class="field">
        One cooldown over all cues
        <span class="row">
          <input
            type="checkbox"
            aria-label="One cooldown over all cues"
            :checked="house.shared_cooldown_s !== null"
            @change="set({ shared_cooldown_s: ($event.target as HTMLInputElement).checked ? 10 : null })"
          />
          <DurationField
            v-if="house.shared_cooldown_s !== null"
            :model-value="house.shared_cooldown_s ?? 0"
            @update:model-value="set({ shared_cooldown_s: $event })"
          />
          <span v-else>each cue has its own</span>
        </span>
      </label>
      <label class="field">
        Sounds are levelled to
        <PickField
          :model-value="house.loudness_lufs ?? ''"
          @update:model-value="
            set({
              loudness_lufs: $event ? Number($event) : null,
            })
          "
        >
          <ElOption
            v-for="lufs in [-12, -14, -16, -18, -20, -23]"
            :key="lufs"
            :value="lufs"
            :label="`−${-lufs} LUFS`"
          />
          <ElOption value="" label="not at all" />
        </PickField>
      </label>
      <label class="field">
        Haptics at most, %
        <NumberField
          :least="0"
          :most="100"
          :model-value="Math.round(house.haptics_level * 100)"
          @update:model-value="
            set({
              haptics_level: $event / 100,
            })
          "
          whole
        />
      </label>
      <label class="field wide">
        Viewers who are never let in
        <input
          class="well"
          placeholder="names, with commas between"
          :value="house.shut_out.join(', ')"
          @change="shutOut(($event.target as HTMLInputElement).value)"
        />
      </label>
    </div>
    <ElCheckbox
      :model-value="house.flash_guard"
      data-test="flash-guard"
      @update:model-value="guard(Boolean($event))"
      >Flash guard: nothing may flash more than three times a second</ElCheckbox
    >
  </section>
</template>

<style scoped>
.house {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
}

.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 10px 16px;
}

.wide {
  grid-column: span 2;
}
</style>
