// Photographs on the device's own disk until the server has them.
let db = null;

export async function openPhotos() {
  db = await new Promise((resolve, reject) => {
    const request = indexedDB.open("ember-photos", 1);
    request.onupgradeneeded = () => request.result.createObjectStore("photos", { keyPath: "id", autoIncrement: true });
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
}

function change(mode, work) {
  return new Promise((resolve, reject) => {
    const transaction = db.transaction("photos", mode, { durability: "strict" });
    const request = work(transaction.objectStore("photos"));
    transaction.oncomplete = () => resolve(request.result);
    transaction.onerror = transaction.onabort = () => reject(transaction.error);
  });
}

export const isOpen = () => db !== null;
export const savedPhotos = () => change("readonly", (store) => store.getAll());
export const savePhoto = (photo) => change("readwrite", (store) => store.add(photo));
export const deletePhoto = (id) => change("readwrite", (store) => store.delete(id));
