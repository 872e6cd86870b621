import { basicSetup, EditorView } from 'codemirror'
document.getElementById('root').innerHTML = '<h1>Recipe</h1><div id=e style="border:1px solid"></div><button id=ok>Mix</button>'
const view = new EditorView({ doc: 'feldspar 40\n', extensions: [basicSetup, EditorView.updateListener.of((u) => u.docChanged && yard.set('text', u.state.doc.toString()))], parent: document.getElementById('e') })
document.getElementById('ok').onclick = () => yard.set('mixed', view.state.doc.toString())
