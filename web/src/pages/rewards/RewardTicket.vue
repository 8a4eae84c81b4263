<script setup lang="ts">
/** A reward as a paper ticket: what it is and does on the left, its price on the stub. */
import { ElCheckbox, ElSwitch } from 'element-plus'
import { computed } from 'vue'
import { sayMinutes } from '@/logic/duration'
import type { Row } from '@/logic/tickets'

const props = defineProps<{ row: Row; dense?: boolean; sets: string[] }>()
const picked = defineModel<boolean>({ required: true })
defineEmits<{ open: []; on: [on: boolean]; again: []; remove: [] }>()
const ticket = computed(() => props.row.ticket)
const stamp = computed(() => ticket.value.said.stamp)
const sentence = computed(() => [ticket.value.said.does, ticket.value.said.rule].filter(Boolean).join(' – '))
/** Whatever is out of sync, at all channels. */
const odd = computed(() => ticket.value.channels.filter((one) => one.standing !== 'in_step'))
const gone = computed(() => odd.value.some((one) => one.standing === 'gone'))
</script>

<template>
  <li
    class="ticket"
    :class="{ dense, off: stamp }"
    :data-reward="ticket.id"
    :style="row.reward.colour ? { '--edge': row.reward.colour } : {}"
  >
    <img
      v-if="ticket.picture"
      class="picture"
      :src="ticket.picture"
      alt=""
      :width="dense ? 30 : 64"
      :height="dense ? 30 : 64"
      loading="lazy"
    />
    <div class="body">
      <div class="row head">
        <ElCheckbox v-model="picked" :aria-label="`Pick ${ticket.title}`" data-test="pick" />
        <button class="title cut-off" :title="ticket.title" @click="$emit('open')">{{ ticket.title }}</button>
        <span v-for="tag in row.reward.tags" :key="tag" class="tag small">{{ tag }}</span>
        <span v-for="name in sets" :key="name" class="tag set small">{{ name }}</span>
        <span class="grow"></span>
        <span v-if="stamp" class="stamp" :title="ticket.closed">{{ stamp }}</span>
      </div>
      <p class="line two-lines" :title="sentence">{{ sentence }}</p>
      <p class="line soft small facts">
        <span class="fact" :class="{ back: ticket.tonight.refunds }">{{ ticket.said.tonight }}</span>
        <span v-if="ticket.closed" class="fact why">{{ ticket.closed }}</span>
        <span v-if="row.reward.review" class="fact">needs approval</span>
      </p>
      <p v-if="odd.length" class="line small standing">
        <span v-for="one in odd" :key="one.channel" :class="one.standing" :title="one.problem">
          {{ one.name }}: {{ one.said
          }}<template v-if="one.standing === 'refused'"> – {{ one.problem }}</template>
        </span>
        <template v-if="gone">
          <button class="btn tiny" data-test="again" @click="$emit('again')">Make again</button>
          <button class="btn tiny danger" @click="$emit('remove')">Remove</button>
        </template>
      </p>
      <p v-else-if="!ticket.channels.length" class="line small soft standing">not at any channel yet</p>
    </div>
    <div class="stub">
      <span class="price" data-test="price">{{ ticket.cost.toLocaleString() }}</span>
      <span class="soft small minutes">{{ sayMinutes(ticket.minutes) }}</span>
      <ElSwitch
        :model-value="ticket.on"
        :disabled="row.reward.elsewhere"
        size="small"
        :aria-label="`${ticket.title} on`"
        @update:model-value="$emit('on', Boolean($event))"
      />
    </div>
  </li>
</template>

<style scoped>
/* Paper with a stub: a bite out of both edges where it tears, and holes along the tear. */
.ticket {
  --edge: var(--marmalade);
  --stub: 116px;
  --bite: 7px;
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) var(--stub);
  background: var(--surface);
  border-left: 6px solid var(--edge);
  border-radius: 6px;
  mask:
    radial-gradient(circle var(--bite) at calc(100% - var(--stub)) 0, transparent 97%, #000) 0 0 / 100% 51%
      no-repeat,
    radial-gradient(circle var(--bite) at calc(100% - var(--stub)) 100%, transparent 97%, #000) 0 100% / 100%
      51% no-repeat;
}

.picture {
  align-self: center;
  margin-left: 12px;
  border-radius: 6px;
}

.body {
  grid-column: 2;
  display: grid;
  align-content: start;
  gap: 3px;
  padding: 10px 16px 10px 12px;
  min-width: 0;
}

.head {
  flex-wrap: nowrap;
  min-width: 0;
}

.title {
  min-width: 0;
  padding: 0;
  border: 0;
  background: none;
  font: 640 18px var(--display);
  text-align: left;
  cursor: pointer;
}

.title:hover {
  text-decoration: underline;
}

.line {
  margin: 0;
}

.two-lines {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-clamp: 2;
  overflow: hidden;
}

.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
}

.back,
.why {
  color: var(--marmalade);
}

.standing {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}

.gone,
.refused {
  color: var(--berry);
}

.elsewhere,
.waiting {
  color: var(--sky);
}

.tag {
  flex: none;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 10px;
  color: var(--soft);
}

.set {
  border-style: dashed;
}

.stamp {
  flex: none;
  padding: 0 8px;
  border: 2px solid currentcolor;
  border-radius: 4px;
  color: var(--berry);
  font: 700 13px var(--display);
  letter-spacing: 0.06em;
  text-transform: uppercase;
  rotate: -3deg;
}

.stub {
  display: grid;
  justify-items: center;
  align-content: center;
  gap: 2px;
  padding: 8px 6px;
  border-left: 3px dotted var(--line);
}

.price {
  font: 700 26px var(--display);
  letter-spacing: -0.01em;
}

.off .price,
.off .title {
  color: var(--soft);
}

/* One line a reward. */
.dense .body {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 0 12px;
}

.dense .title {
  font-size: 15px;
}

.dense .set {
  display: none;
}

.dense .head {
  flex: 0 0 300px;
}

.dense .line {
  flex: 1 1 0;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.dense .facts {
  display: block;
}

.dense .fact + .fact::before {
  content: ' · ';
}

.dense .standing {
  flex: 0 1 auto;
}

.dense .stub {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 6px;
  padding: 2px 8px;
}

.dense .price {
  font-size: 18px;
}

.dense .minutes {
  display: none;
}

.dense.ticket {
  --stub: 128px;
  --bite: 4px;
}

@media (max-width: 760px) {
  .ticket,
  .dense.ticket {
    --stub: 92px;
  }

  .dense .line {
    display: none;
  }

  .dense .head {
    flex: 1 1 auto;
  }

  .head {
    flex-wrap: wrap;
  }

  .price {
    font-size: 20px;
  }
}
</style>
