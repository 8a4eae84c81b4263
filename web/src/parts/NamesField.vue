<script setup lang="ts">
/** Several names: picked from known ones, or typed. */
import { ElOption, ElSelect } from 'element-plus'
import { computed, onMounted, ref } from 'vue'

// The field's attributes belong to the list, not to the note below it.
defineOptions({ inheritAttrs: false })
const props = defineProps<{ modelValue: string[]; known: string[]; placeholder?: string }>()
const emit = defineEmits<{ 'update:modelValue': [names: string[]] }>()
const select = ref<InstanceType<typeof ElSelect>>()
/** Inside a popover the list stays part of it: a click in a list outside would close the popover. */
const outside = ref(true)
onMounted(() => {
  const node: unknown = select.value?.$el
  outside.value = !(node instanceof Element && node.closest('.el-popover'))
})

const fold = (name: string): string => name.trim().toLowerCase()
/** Names that don't exist, as far as known. */
const unknown = computed(() =>
  props.known.length ? props.modelValue.filter((name) => !props.known.map(fold).includes(fold(name))) : [],
)

function take(names: string[]): void {
  emit('update:modelValue', [...new Set(names.map((name) => name.trim()))].filter(Boolean))
}
</script>

<template>
  <ElSelect
    ref="select"
    v-bind="$attrs"
    class="names-field"
    multiple
    filterable
    allow-create
    default-first-option
    :persistent="false"
    :teleported="outside"
    append-to="#over"
    :model-value="modelValue"
    :placeholder="placeholder"
    no-data-text="Type a name"
    @update:model-value="take"
    @click.capture.prevent
  >
    <ElOption v-for="name in known" :key="name" :value="name" :label="name" />
  </ElSelect>
  <span v-if="unknown.length" class="unknown small" role="status"
    >▲ There is no {{ unknown.map((name) => `“${name}”`).join(', ') }}.</span
  >
</template>

<style scoped>
.unknown {
  color: var(--marmalade);
}
</style>
