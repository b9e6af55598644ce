import { mergeAttributes, Node } from '@tiptap/core'

/** A tool link that stands in running text, as a block of its own. It is shown by the page, not by the editor. */
export const ToolInText = Node.create({
  name: 'toolInText',
  group: 'block',
  atom: true,
  draggable: true,
  addAttributes() {
    return {
      tool: {
        default: '',
        parseHTML: (element) => element.getAttribute('data-tool') ?? '',
        renderHTML: ({ tool }) => ({ 'data-tool': String(tool) }),
      },
      show: {
        default: 'link',
        parseHTML: (element) => element.getAttribute('data-show') ?? 'link',
        renderHTML: ({ show }) => ({ 'data-show': String(show) }),
      },
      title: { default: 'Tool content', parseHTML: (element) => element.textContent, renderHTML: () => ({}) },
    }
  },
  parseHTML: () => [{ tag: 'div[data-tool]' }],
  renderHTML: ({ HTMLAttributes, node }) => [
    'div',
    mergeAttributes(HTMLAttributes, { class: 'tool-in-text' }),
    String(node.attrs['title']),
  ],
})
