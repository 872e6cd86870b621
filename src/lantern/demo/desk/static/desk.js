// The little script that the desk needs: row menus and the question before deleting.
document.addEventListener('click', (event) => {
  const opener = event.target.closest('[data-opens]')
  for (const list of document.querySelectorAll('.menu ul')) {
    list.hidden = !(opener && list.id === opener.dataset.opens && list.hidden)
  }
})
document.addEventListener('submit', (event) => {
  const question = event.target.dataset.question
  if (question && !confirm(question)) event.preventDefault()
})
