const STEPS: [number, string][] = [
    [60, 'second'],
    [60, 'minute'],
    [24, 'hour'],
    [31, 'day']
]

/** How long ago a moment was, in words; the date where that is longer than a month. */
export function ago(moment: string, now = Date.now()): string {
    let amount = Math.max(0, (now - Date.parse(moment)) / 1000)
    if (amount < 45) return 'just now'
    for (const [size, word] of STEPS) {
        if (amount < size) {
            const whole = Math.round(amount)
            return `${whole} ${word}${whole === 1 ? '' : 's'} ago`
        }
        amount /= size
    }
    return moment.slice(0, 10)
}
