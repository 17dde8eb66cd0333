/* Fields and forms: what stands in one, what it came with, which form is the same as another. */

export const ofDesign = (event) => Boolean(event.detail.target) && event.detail.target.id === "design";
export const standing = (field) => (field.type === "checkbox" ? String(field.checked) : field.value);
export function original(field) {
  if (field.type === "checkbox") return String(field.defaultChecked);
  if (field.tagName !== "SELECT") return field.defaultValue;
  const chosen = [...field.options].find((option) => option.defaultSelected) || field.options[0];
  return chosen ? chosen.value : "";
}
export function put(field, value) {
  if (field.type === "checkbox") field.checked = value === "true";
  else field.value = value;
}
export function signature(form) {
  const hidden = [...form.querySelectorAll("input[type=hidden]")].filter((input) => input.name !== "_base");
  return form.getAttribute("action") + JSON.stringify(hidden.map((input) => [input.name, input.value]));
}
