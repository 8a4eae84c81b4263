<script setup lang="ts">
/** The settings for the whole show: cooldowns, lengths, loudness, flash safety, blocked viewers. */
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
  ['cooldown_s', 'Cue cooldown'],
  ['viewer_cooldown_s', 'Viewer cooldown'],
  ['still_s', 'Still picture duration'],
  ['open_cap_s', 'Open-ended limit'],
  ['extend_cap_s', 'Extension limit'],
  ['haptics_most_s', 'Longest continuous haptics'],
  ['haptics_pause_s', 'Pause after that'],
  ['late_s', 'Ignore events older than'],
]

/** Off only after two questions: flashes can harm people. */
async function guard(on: boolean): Promise<void> {
  if (!on) {
    try {
      const first =
        'Flashes of more than three a second can cause seizures in people who watch. Turn the guard off?'
      await ElMessageBox.confirm(first, 'Flash guard', {
        confirmButtonText: 'Continue',
        cancelButtonText: 'Leave on',
      })
      const second = 'You are then responsible for flashing on your stream. Turn it off?'
      await ElMessageBox.confirm(second, 'Flash guard', {
        confirmButtonText: 'Turn it off',
        cancelButtonText: 'Leave on',
        confirmButtonClass: 'danger',
      })
    } catch {
      return
    }
  }
  await set({ flash_guard: on })
}

function listed(text: string): string[] {
  return [...new Set(text.split(/[,\n]/).map((name) => name.trim()))].filter(Boolean)
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
        Maximum text length
        <span class="row">
          <NumberField
            :model-value="house.most_text"
            :least="10"
            :most="5000"
            :step="50"
            whole
            aria-label="Maximum text length"
            data-test="most-text"
            @update:model-value="set({ most_text: $event })"
          />
          characters
        </span>
      </label>
      <label class="field">
        Maximum name length
        <span class="row">
          <NumberField
            :model-value="house.most_name"
            :least="5"
            :most="200"
            whole
            aria-label="Maximum name length"
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
        Shared cooldown
        <span class="row">
          <input
            type="checkbox"
            aria-label="Shared cooldown"
            :checked="house.shared_cooldown_s !== null"
            @change="set({ shared_cooldown_s: ($event.target as HTMLInputElement).checked ? 10 : null })"
          />
          <DurationField
            v-if="house.shared_cooldown_s !== null"
            :model-value="house.shared_cooldown_s ?? 0"
            @update:model-value="set({ shared_cooldown_s: $event })"
          />
          <span v-else>none</span>
        </span>
      </label>
      <label class="field">
        Loudness target
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
          <ElOption value="" label="off" />
        </PickField>
      </label>
      <label class="field">
        Maximum haptics, %
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
        Blocked viewers
        <input
          class="well"
          placeholder="names, separated by commas"
          :value="house.shut_out.join(', ')"
          @change="set({ shut_out: listed(($event.target as HTMLInputElement).value) })"
        />
      </label>
      <label class="field wide">
        Bots, never drawn
        <input
          class="well"
          placeholder="names, separated by commas"
          :value="house.bots.join(', ')"
          data-test="bots"
          @change="set({ bots: listed(($event.target as HTMLInputElement).value) })"
        />
      </label>
    </div>
    <ElCheckbox
      :model-value="house.flash_guard"
      data-test="flash-guard"
      @update:model-value="guard(Boolean($event))"
      >Flash guard: at most three flashes a second</ElCheckbox
    >
    <ElCheckbox
      :model-value="house.faces"
      data-test="faces"
      title="Fetched from the channel, kept for a week. Off, their letters are shown."
      @update:model-value="set({ faces: Boolean($event) })"
      >Pictures of viewers</ElCheckbox
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
