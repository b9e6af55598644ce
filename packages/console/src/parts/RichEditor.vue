<script setup lang="ts">
import { Editor } from '@tiptap/core'
import StarterKit from '@tiptap/starter-kit'
import { onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { ToolInText } from './tool-in-text'

/** Rich text, edited in place. What could do harm is taken out again by the service. */
const { id, label, description } = defineProps<{ id: string; label: string; description?: string }>()
const text = defineModel<string>({ required: true })
const linkAt = ref<string | null>(null)
const place = ref<HTMLElement>()
const editor = shallowRef<Editor>()
/** Goes up with every change of text or selection, so that the buttons show what is on. */
const changes = ref(0)

onMounted(() => {
  editor.value = new Editor({
    element: place.value!,
    content: text.value,
    // Styles stand in our own sheet: the page’s policy takes no others.
    injectCSS: false,
    extensions: [
      StarterKit.configure({
        heading: { levels: [2, 3] },
        link: { openOnClick: false, protocols: ['http', 'https', 'mailto'] },
      }),
      ToolInText,
    ],
    editorProps: { attributes: { id, 'aria-label': label, role: 'textbox', 'aria-multiline': 'true' } },
    onUpdate: ({ editor: one }) => (text.value = one.isEmpty ? '' : one.getHTML()),
    onTransaction: () => changes.value++,
  })
})
watch(text, (value) => {
  const one = editor.value
  if (one && value !== one.getHTML() && !(value === '' && one.isEmpty)) one.commands.setContent(value)
})
onBeforeUnmount(() => editor.value?.destroy())
const isOn = (name: string) => changes.value >= 0 && (editor.value?.isActive(name) ?? false)

const MARKS = [
  { word: 'Bold', sign: 'B', on: 'bold', run: () => editor.value?.chain().focus().toggleBold().run() },
  { word: 'Italic', sign: 'I', on: 'italic', run: () => editor.value?.chain().focus().toggleItalic().run() },
  {
    word: 'Heading',
    sign: 'H',
    on: 'heading',
    run: () => editor.value?.chain().focus().toggleHeading({ level: 2 }).run(),
  },
  { word: 'List', sign: '•', on: 'bulletList', run: () => editor.value?.chain().focus().toggleBulletList().run() },
  {
    word: 'Numbered list',
    sign: '1.',
    on: 'orderedList',
    run: () => editor.value?.chain().focus().toggleOrderedList().run(),
  },
  { word: 'Quotation', sign: '“', on: 'blockquote', run: () => editor.value?.chain().focus().toggleBlockquote().run() },
] as const
function setLink() {
  const href = (linkAt.value ?? '').trim()
  if (href === '') editor.value?.chain().focus().unsetLink().run()
  else editor.value?.chain().focus().extendMarkRange('link').setLink({ href }).run()
  linkAt.value = null
}
defineExpose({
  /** Puts a tool link of the course into the text. */
  insertTool: (tool: string, show: 'frame' | 'link' | 'window', title: string) =>
    editor.value?.chain().focus().insertContent({ type: 'toolInText', attrs: { tool, show, title } }).run(),
})
</script>

<template>
  <div class="rich-editor">
    <div class="d-flex justify-content-between align-items-end mb-1">
      <label :for="id" class="form-label mb-0">{{ label }}</label>
      <div class="rich-bar" role="toolbar" :aria-label="`Form of ${label.toLowerCase()}`">
        <button
          v-for="one in MARKS"
          :key="one.word"
          type="button"
          :aria-label="one.word"
          :title="one.word"
          :aria-pressed="isOn(one.on)"
          @click="one.run()"
        >
          {{ one.sign }}
        </button>
        <button
          type="button"
          :aria-expanded="linkAt !== null"
          @click="linkAt = linkAt === null ? (editor?.getAttributes('link')['href'] ?? '') : null"
        >
          Link
        </button>
        <slot name="bar" />
      </div>
    </div>
    <div v-if="linkAt !== null" class="d-flex gap-2 mb-2">
      <input
        v-model="linkAt"
        class="form-control form-control-sm mono"
        placeholder="https://…"
        aria-label="Address of the link"
        @keydown.enter.prevent="setLink"
      />
      <button type="button" class="btn btn-sm btn-outline-primary" @click="setLink">
        {{ linkAt ? 'Set the link' : 'Take the link off' }}
      </button>
    </div>
    <div ref="place" class="rich-text form-control"></div>
    <div v-if="description" class="form-text">{{ description }}</div>
  </div>
</template>

<style>
.rich-bar {
  display: flex;
  gap: 0.15rem;
}
.rich-bar button {
  min-width: 1.9rem;
  border: 1px solid transparent;
  border-radius: 0.25rem;
  background: none;
  color: var(--sea);
  padding: 0.05rem 0.4rem;
}
.rich-bar button:hover,
.rich-bar button[aria-pressed='true'] {
  background: var(--sea-soft);
  border-color: var(--line);
}
.rich-editor .ProseMirror {
  min-height: 5.5rem;
  outline: none;
  white-space: pre-wrap;
  overflow-wrap: break-word;
}
.rich-editor .form-control:focus-within {
  outline: 3px solid var(--sea);
  outline-offset: 1px;
}
.rich-text > :last-child,
.rich-text .ProseMirror > :last-child {
  margin-bottom: 0;
}
.rich-text > :first-child > :first-child,
.rich-text .ProseMirror > :first-child {
  margin-top: 0;
}
.rich-text p {
  margin-bottom: 0.6rem;
}
.rich-text h2 {
  font-size: 1.05rem;
  margin: 0.8rem 0 0.4rem;
}
.rich-text h3 {
  font-size: 1rem;
  margin: 0.6rem 0 0.3rem;
}
.rich-text blockquote {
  border-left: 3px solid var(--line);
  padding-left: 0.8rem;
  color: var(--quiet);
}
.rich-text img {
  max-width: 100%;
}
.tool-in-text {
  border: 1px dashed var(--sea);
  border-radius: 0.3rem;
  padding: 0.4rem 0.7rem;
  margin-bottom: 0.6rem;
  background: var(--sea-soft);
}
</style>
