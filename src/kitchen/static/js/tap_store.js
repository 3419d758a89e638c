// Taps on the device's own disk.
let db = null;

export async function openStore() {
  db = await new Promise((resolve, reject) => {
    const request = indexedDB.open("ember-taps", 1);
    request.onupgradeneeded = () => request.result.createObjectStore("taps", { keyPath: "id", autoIncrement: true });
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
}

function change(mode, work) {
  return new Promise((resolve, reject) => {
    const transaction = db.transaction("taps", mode, { durability: "strict" });
    const request = work(transaction.objectStore("taps"));
    transaction.oncomplete = () => resolve(request.result);
    transaction.onerror = transaction.onabort = () => reject(transaction.error);
  });
}

export const isOpen = () => db !== null;
export const savedTaps = () => change("readonly", (store) => store.getAll());
export const saveTap = (tap) => change("readwrite", (store) => store.add(tap));
export const deleteTap = (id) => change("readwrite", (store) => store.delete(id));
