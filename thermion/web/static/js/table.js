// What is pasted as a table is looked into at once.
const room = document.querySelector("[data-goes-on-paste]");
room?.addEventListener("paste", () => {
  setTimeout(() => room.value.includes("\t") && room.form.requestSubmit());
});
