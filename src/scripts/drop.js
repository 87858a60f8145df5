// Files dropped on a form, or pasted into it, as if they had been chosen there.
export const drop = () => ({
  taken(transfer) {
    const field = this.$root.querySelector("input[type=file]");
    if (!transfer?.files.length || !field) return;
    field.files = transfer.files;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  },
});
