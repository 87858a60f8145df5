// A choice that leads on at once; without this script a button does it.
document.addEventListener("change", (event) => {
  if (event.target.matches("select[data-go]")) event.target.form.requestSubmit();
});
