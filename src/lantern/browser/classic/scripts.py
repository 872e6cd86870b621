"""What is run in pages: the probe under a name of the session's own, and what watches requests."""

from __future__ import annotations

from functools import cache

from lantern.browser.base_window import probe_source

MARK = "\u2063lantern\u2063"
"""What stands between the words of a dialog and what it is, which the protocol does not tell."""
WATCH = """
for (const kind of ['alert', 'confirm', 'prompt']) { const real = window[kind];
  window[kind] = function (words, value) {
    const told = [kind, value === undefined ? '' : String(value)];
    return real.call(window, (words === undefined ? '' : String(words)) + '\\u2063lantern\\u2063'
      + JSON.stringify(told), ...(value === undefined ? [] : [value])) } }
const open = new Map(), log = []; let next = 0, away = false;
const note = (...one) => { if (log.length < 2000) log.push(one) };
const begin = (method, url) => { const id = `${Date.now()} ${++next}`; open.set(id, method);
  note('request', id, method.toUpperCase(), String(url)); return id };
const end = (id, status, url) => { if (open.delete(id)) note('done', id, status, String(url)) };
const fail = (id, url) => { if (open.delete(id)) note('failed', id, 0, String(url)) };
const full = (url) => { try { return new URL(url, document.baseURI).href } catch { return url } };
const realFetch = window.fetch;
if (realFetch) window.fetch = function (what, how) {
  const asks = what instanceof Request ? what : null;
  const url = full(asks ? asks.url : what);
  const id = begin(how?.method || asks?.method || 'GET', url);
  const answer = realFetch.apply(this, arguments);
  answer.then((one) => end(id, one.status, url), () => fail(id, url));
  return answer };
const xhr = XMLHttpRequest.prototype, realOpen = xhr.open, realSend = xhr.send;
const asked = new WeakMap();
xhr.open = function (method, url) { asked.set(this, [method, full(url)]);
  return realOpen.apply(this, arguments) };
xhr.send = function () {
  const [method, url] = asked.get(this) || ['GET', ''], id = begin(method, url);
  this.addEventListener('loadend', () => this.status ? end(id, this.status, url) : fail(id, url));
  return realSend.apply(this, arguments) };
const realBeacon = navigator.sendBeacon;
if (realBeacon) navigator.sendBeacon = function (url) { note('told', 'beacon', 0, String(url));
  return realBeacon.apply(this, arguments) };
addEventListener('submit', (event) => setTimeout(() => {
  if (!event.defaultPrevented) note('told', 'form', 0, event.target.action) }), true);
const realError = console.error;
console.error = function (...what) { note('complaint', what.map(String).join(' '));
  return realError.apply(this, what) };
addEventListener('error', (event) => event.message && note('complaint', event.message));
addEventListener('unhandledrejection', (event) => note('complaint', String(event.reason)));
addEventListener('blur', (event) => { if (away) event.stopImmediatePropagation() }, true);
let moved = 0; addEventListener('focusin', () => { moved = Date.now() }, true);
own.moved = () => moved;
own.look = (elsewhere) => { away = elsewhere;
  for (let n = 0; n < window.length; n++) try { window[n][name]?.look(elsewhere) } catch {} };
own.drain = () => [document.readyState, location.href, document.title, open.size,
  [...open.values()].filter((one) => !/^(get|head|options)$/i.test(one)).length,
  log.splice(0, log.length)];
"""
"""Keeps what requests are under way, and what is to be told, until somebody asks."""
ASK = """
const done = arguments[arguments.length - 1], own = window[%(key)s];
if (!own) { done(['absent']); return }
const lantern = own.lantern;
Promise.resolve().then(() => %(expression)s).then(
  (value) => done(['said', value ?? null]), (error) => done(['failed', String(error)]));
"""
ACTIVE = """
let at = document.activeElement;
while (at?.shadowRoot?.activeElement) at = at.shadowRoot.activeElement;
const holds = at && ['iframe', 'frame'].includes(at.localName);
"""
AWAY = f"window[%(key)s]?.look(true); {ACTIVE} return [Date.now(), holds ? [at] : []]"
"""Before somebody looks into a frame: the page does not hear that it loses the focus by that.

Gives the time, and the frame that holds the focus, if one does.
"""
HELD = f"""{ACTIVE}
if (holds) return [false, [at]];
if (at && at !== document.body && at !== document.documentElement) return [true, []];
return [false, [...document.querySelectorAll('iframe,frame')].slice(0, 20)]
"""
"""Whether something here has the focus; if not, the frames in which something may have it."""
MOVED = "return (window[%(key)s]?.moved() || 0) >= arguments[0]"
"""Whether something here took the focus since a time."""
BACK = """
const [elsewhere] = arguments;
if (!elsewhere) window.focus();
window[%(key)s]?.look(false)
"""
"""After that: the page has the focus again, unless one of its frames has."""
FRAMES = """
const found = [], look = (root) => { for (const one of root.querySelectorAll('*')) {
  if (one.shadowRoot) look(one.shadowRoot);
  if (one.localName === 'iframe' || one.localName === 'frame')
    found.push([one, one.name || one.id || '', one.src || '']) } };
if (window.length || document.querySelector('iframe,frame')) look(document);
return found
"""
"""The frames of a document: what holds each, its name, and where it went first."""
GIVE = """
const [field, files] = arguments, held = new DataTransfer();
for (const [name, type, content] of files)
  held.items.add(
    new File([Uint8Array.from(atob(content), (one) => one.charCodeAt(0))], name, { type }));
field.files = held.files;
for (const kind of ['input', 'change']) field.dispatchEvent(new Event(kind, { bubbles: true }))
"""
"""Puts files into a field; their contents are in base64."""
CORNER = """
const [frame] = arguments, box = frame.getBoundingClientRect(), style = getComputedStyle(frame);
return [box.x + frame.clientLeft + parseFloat(style.paddingLeft),
  box.y + frame.clientTop + parseFloat(style.paddingTop)]
"""


@cache
def install(key: str) -> str:
    """Return what puts the probe into a document under a name, unless it is there."""
    return (
        f"if (window[{key}]) return false; const own = {{}};\n"
        f"const name = {key};\n(function (globalThis) {{ {probe_source()} }})(own);\n{WATCH}\n"
        f"Object.freeze(own); Object.defineProperty(window, {key}, {{ value: own }}); return true"
    )
