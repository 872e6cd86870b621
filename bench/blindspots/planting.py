"""Changes of a page made for real: a script that the proxy puts into every page of that title."""

from __future__ import annotations

import json
import re
from collections.abc import Callable

from bench.verdicts.proxy import Answer
from lantern.core.review.blind.changes import row_after
from lantern.core.review.blind.spots import Spot

HEAD = re.compile(r"<head[^>]*>")
SCRIPT = """
(() => {
  const want = WANT
  const tidy = (text) => (text || '').replace(/\\s+/g, ' ').trim()
  const said = (node) => tidy(node.childElementCount ? node.innerText : node.textContent)
  const titled = () => tidy(document.title).replace(/[#\\d]+/g, '#') === want.title
  const ROW = 'tr,[role=row],li,[role=listitem],article,[role=article]'
  const rowOf = (node) => node.closest(ROW) || node.parentElement
  const say = (node) => {
    const walk = document.createTreeWalker(node, NodeFilter.SHOW_TEXT)
    for (let at = walk.nextNode(); at; at = walk.nextNode())
      if (tidy(at.nodeValue) === want.before) return void (at.nodeValue = want.after)
    node.textContent = want.after
  }
  const acts = {
    said: say,
    row: (node) => rowOf(node).remove(),
    count: (node) => {
      const row = rowOf(node)
      if (row.twin || row.isTwin) return
      row.twin = true
      const copy = row.cloneNode(true)
      copy.isTwin = true
      row.after(copy)
    },
    order: (node) => {
      const row = rowOf(node)
      const next = row.nextElementSibling
      if (row.moved || !next) return
      row.moved = true
      next.after(row)
    },
    state: (node) => {
      if ('disabled' in node) node.disabled !== want.off && (node.disabled = want.off)
      else if (node.getAttribute('aria-disabled') !== String(want.off))
        node.setAttribute('aria-disabled', want.off)
    },
    presence: (node) => (node.style.display = 'none'),
  }
  const change = () => {
    if (!titled()) return
    for (const node of document.querySelectorAll(want.path)) {
      if (want.known && said(node) !== want.known) continue
      acts[want.act](node)
      return
    }
  }
  new MutationObserver(change).observe(document, {
    subtree: true, childList: true, characterData: true, attributes: true,
  })
  document.addEventListener('DOMContentLoaded', change)
})()
"""


def planted(spot: Spot) -> Callable[[Answer], None]:
    """Return what lets a page come with a change in it; see Rule.after of the proxy."""
    change, node = spot.change, spot.node
    said = change.kind in ("value", "text", "message")
    want = {
        "act": "said" if said else change.kind,
        "title": spot.page,
        "path": node.path,
        "known": node.text,
        "off": node.enabled,
        "before": change.before,
        "after": change.after,
    }
    script = SCRIPT.replace("WANT", json.dumps(want).replace("</", "<\\/"))
    tag = f"<script>{script}</script>"

    def put(answer: Answer) -> None:
        kind = {name.lower(): value for name, value in answer.headers}
        if "text/html" in kind.get("content-type", ""):
            answer.body = HEAD.sub(lambda at: at[0] + tag, answer.text, count=1).encode()

    return put


def can_be_made(spot: Spot) -> bool:
    """Tell whether a change can be made for real: its place must be one that a selector tells."""
    if spot.node.frames or not spot.node.path:
        return False
    rows = spot.change.kind == "order"
    return not rows or row_after(spot.moment.tree, spot.change.at) > 0
