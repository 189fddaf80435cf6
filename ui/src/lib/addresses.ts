const REST_MS = 10_000

/** An address of the browser's own for what is shown as a picture or saved as a file. */
export function addressOf(text: string, type: string): string {
    return URL.createObjectURL(new Blob([text], { type }))
}

/** The address is needed no more. A picture that still loads from it may: the browser would complain that it is gone. */
export function letGo(address: string): void {
    if (address.startsWith('blob:')) setTimeout(() => URL.revokeObjectURL(address), REST_MS)
}

/** Hand a text to the person as a file. */
export function saveAs(name: string, text: string, type: string): void {
    const link = document.createElement('a')
    link.href = addressOf(text, type)
    link.download = name
    link.click()
    letGo(link.href)
}
