<script setup lang="ts">
/** A reward with everything about it. Each change counts at once and is a step that can be undone. */
import { ElColorPicker, ElDrawer, ElPopconfirm, ElSegmented, ElSwitch } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import type { Reward, Row } from '@/logic/tickets'
import DoorAsk from '@/parts/DoorAsk.vue'
import PickField from '@/parts/PickField.vue'
import PriceRule from './PriceRule.vue'
import RewardPicture from './RewardPicture.vue'

const props = defineProps<{ row: Row | null }>()
const emit = defineEmits<{ close: []; remove: [] }>()
const book = useBook()
const reward = computed(() => props.row?.reward ?? null)
const ticket = computed(() => props.row?.ticket ?? null)
const first = computed(() => book.book?.cues.find((cue) => cue.id === ticket.value?.cues[0]?.id))
const channels = computed(() => [
  { value: '', name: 'every channel' },
  ...(book.book?.gear ?? [])
    .filter((gear) => gear.kind === 'channel')
    .map((gear) => ({ value: gear.id, name: gear.name || gear.id })),
])
const CLOSED = [
  { value: 'pause', label: 'Pause it' },
  { value: 'refund', label: 'Leave it open, refund' },
]

function change(to: Partial<Reward>): void {
  if (reward.value) void attempt(() => book.put('rewards', { ...reward.value, ...to } as Reward))
}

function typed(event: Event): string {
  return (event.target as HTMLInputElement).value.trim()
}
</script>

<template>
  <ElDrawer
    append-to="#over"
    :model-value="row !== null"
    :title="reward?.title ?? ''"
    size="min(540px, 100%)"
    @close="emit('close')"
  >
    <div v-if="reward && ticket" class="form" data-test="reward-drawer">
      <p v-if="reward.elsewhere" class="note">
        Made elsewhere: the channel keeps its name, price and switch, and redemptions can’t be refunded.
      </p>
      <template v-else>
        <label class="field">
          Title
          <input
            class="well"
            maxlength="200"
            :value="reward.title"
            @change="change({ title: typed($event) })"
          />
        </label>
        <PriceRule :reward="reward" @change="change" />
        <label class="field">
          Prompt
          <textarea
            class="well"
            rows="2"
            maxlength="400"
            :value="reward.prompt ?? ticket.written"
            data-test="prompt"
            @change="change({ prompt: typed($event), text: true })"
          ></textarea>
          <span v-if="!ticket.own_prompt">Written from its cue’s door; it updates by itself.</span>
          <span v-else
            >Written by hand.
            <button class="btn tiny" data-test="self-written" @click="change({ prompt: null })">
              Write automatically
            </button></span
          >
        </label>
        <label class="row">
          <span class="grow">Ask for text</span>
          <ElSwitch
            :model-value="reward.text"
            aria-label="Ask for text"
            @update:model-value="change({ text: Boolean($event) })"
          />
        </label>
      </template>
      <label class="row">
        <span class="grow">Each redemption waits on the desk for your approval</span>
        <ElSwitch
          :model-value="reward.review"
          aria-label="Needs approval"
          @update:model-value="change({ review: Boolean($event) })"
        />
      </label>
      <div v-if="!reward.elsewhere" class="row wrap">
        <span class="grow">When its cue can’t be called</span>
        <ElSegmented
          :model-value="reward.closed"
          :options="CLOSED"
          aria-label="When its cue can’t be called"
          @update:model-value="change({ closed: $event as Reward['closed'] })"
        />
      </div>
      <div class="pair">
        <label class="field">
          Tags
          <input
            class="well"
            placeholder="none"
            :value="reward.tags.join(', ')"
            @change="
              change({
                tags: typed($event)
                  .split(',')
                  .map((t) => t.trim())
                  .filter(Boolean),
              })
            "
          />
        </label>
        <label v-if="channels.length > 2" class="field">
          Channel
          <PickField
            :model-value="reward.channel ?? ''"
            :choices="channels"
            aria-label="Channel"
            @update:model-value="change({ channel: String($event) || null })"
          />
        </label>
        <div class="field small soft">
          Ticket colour
          <ElColorPicker
            :model-value="reward.colour"
            aria-label="Ticket colour"
            @update:model-value="change({ colour: $event?.toLowerCase() ?? null })"
          />
        </div>
      </div>
      <RewardPicture :reward="reward" :shown="ticket.picture" @change="change" />
      <dl class="facts">
        <dt>Cue</dt>
        <dd>
          <RouterLink v-for="cue in ticket.cues" :key="cue.id" :to="`/cues/${cue.id}`">{{
            cue.name
          }}</RouterLink>
          <DoorAsk v-if="first" :cue="first" />
          <span v-if="!ticket.cues.length">none; add it in a cue, under Calls</span>
        </dd>
        <dt>Limits</dt>
        <dd>{{ ticket.said.limits || 'none kept by the channel' }}</dd>
        <dt>Tonight</dt>
        <dd>{{ ticket.said.tonight }}</dd>
        <template v-for="one in ticket.channels" :key="one.channel">
          <dt>{{ one.name }}</dt>
          <dd>{{ one.said }}{{ one.problem ? `: ${one.problem}` : '' }}</dd>
        </template>
      </dl>
      <ElPopconfirm
        :persistent="false"
        :title="`Remove ${reward.title}? Its cues stay. Undo makes it again.`"
        confirm-button-text="Remove"
        cancel-button-text="Cancel"
        width="260"
        @confirm="emit('remove')"
      >
        <template #reference><button class="btn danger" data-test="remove">Remove it</button></template>
      </ElPopconfirm>
    </div>
  </ElDrawer>
</template>

<style scoped>
.form {
  display: grid;
  justify-items: stretch;
  gap: 14px;
}

.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(140px, 1fr));
  gap: 10px;
}

.wrap {
  flex-wrap: wrap;
}

.note {
  margin: 0;
  color: var(--sky);
}

.facts {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 4px 16px;
  margin: 0;
}

dt {
  color: var(--soft);
}

dd {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin: 0;
}

.danger {
  justify-self: start;
}
</style>
