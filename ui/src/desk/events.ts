import type { RunEvent } from '../lib/record'

export type { RunEvent }

const KINDS = ['queued', 'progress', 'finding', 'figure', 'message', 'names', 'done', 'failed'] as const

/**
 * Follow a run to its end. A broken connection is taken up again by the browser, from after the last event that came.
 * Returns what ends the listening.
 */
export function listen(run: string, onevent: (event: RunEvent) => void, onlost: () => void): () => void {
    const source = new EventSource(`/api/runs/${encodeURIComponent(run)}/events`)
    for (const kind of KINDS) {
        source.addEventListener(kind, (message: MessageEvent<string>) => {
            const event = JSON.parse(message.data) as RunEvent
            if (event.event === 'done' || event.event === 'failed') source.close()
            onevent(event)
        })
    }
    source.addEventListener('error', () => {
        if (source.readyState === EventSource.CLOSED) onlost()
    })
    return () => source.close()
}
