export type Place =
    | { view: 'shelf' }
    | { view: 'desk'; folio: number }
    | { view: 'tables'; folio: number; table: string }
    | { view: 'handbook'; page: string }
    | { view: 'course'; lesson: string }
    | { view: 'nowhere'; path: string }

export function placeOf(path: string): Place {
    if (path === '/' || path === '') return { view: 'shelf' }
    const match = /^\/folio\/(\d+)\/?$/.exec(path)
    if (match?.[1]) return { view: 'desk', folio: Number(match[1]) }
    const tables = /^\/folio\/(\d+)\/tables(?:\/([^/]*))?\/?$/.exec(path)
    if (tables?.[1]) return { view: 'tables', folio: Number(tables[1]), table: decodeURIComponent(tables[2] ?? '') }
    const page = /^\/handbook(?:\/([^/]*))?\/?$/.exec(path)
    if (page) return { view: 'handbook', page: decodeURIComponent(page[1] ?? '') }
    const lesson = /^\/course(?:\/([^/]*))?\/?$/.exec(path)
    if (lesson) return { view: 'course', lesson: decodeURIComponent(lesson[1] ?? '') }
    return { view: 'nowhere', path }
}

class Router {
    place = $state<Place>(placeOf(location.pathname))

    constructor() {
        addEventListener('popstate', () => (this.place = placeOf(location.pathname)))
    }

    go(path: string): void {
        history.pushState(null, '', path)
        this.place = placeOf(path)
    }
}

export const router = new Router()

/** For links of the application: a plain click changes the view without loading the page again. */
export function follow(event: MouseEvent): void {
    const link = event.currentTarget
    if (!(link instanceof HTMLAnchorElement) || event.button || event.metaKey || event.ctrlKey || event.shiftKey) return
    event.preventDefault()
    router.go(link.pathname)
}
