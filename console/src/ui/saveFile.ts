/** Has the browser save a text under a name, as if it had been a link to a file. */
export function saveFile(name: string, text: string, type: string) {
  const address = URL.createObjectURL(new Blob([text], { type }));
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}
