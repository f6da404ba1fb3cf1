import { onBeforeUnmount, ref } from 'vue'

/** What a stream of server-sent events told last; the browser asks again by itself when the connection is lost. */
export function useEvents<T>(take: (v: T) => void) {
  const lost = ref(false)
  let source: EventSource | undefined
  function close() {
    source?.close()
    source = undefined
  }
  function open(url: string) {
    close()
    source = new EventSource(url)
    source.onmessage = (e: MessageEvent<string>) => {
      lost.value = false
      take(JSON.parse(e.data) as T)
    }
    source.onerror = () => {
      lost.value = true
      // an answer that was refused is not asked for again by the browser
      if (source?.readyState === EventSource.CLOSED) setTimeout(() => source && open(url), 3000)
    }
  }
  onBeforeUnmount(close)
  return { open, close, lost }
}
