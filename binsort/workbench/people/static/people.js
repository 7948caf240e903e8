// People: a flag says how far somebody may go; it is dragged, or moved by arrow keys.
(() => {
  const { byId, say } = tool;
  const ROLES = ["viewer", "editor", "keeper", "owner"];
  const LAST = { viewer: "look", editor: "draft", keeper: "products", owner: "people" }; // the compartment behind which the flag of a role stands

  function send(row, role) {
    const form = row.querySelector(".role-form");
    const wanted = form?.querySelector(`[name=role][value=${role}]`);
    if (!wanted || wanted.checked) return place(row);
    wanted.checked = true;
    say(`${row.querySelector("b").textContent}: ${role}`);
    form.requestSubmit();
  }

  function place(row) {
    const flag = row.querySelector(".role-flag");
    const last = row.querySelector(`[data-act=${LAST[row.dataset.role]}]`);
    flag.style.left = `${last.offsetLeft + last.offsetWidth - 12}px`;
  }

  function dress() {
    for (const row of document.querySelectorAll(".person.person:not(.people-head)")) {
      if (!row.dataset.role || row.querySelector(".role-flag") || !(row.querySelector(".role-form") || row.classList.contains("invitation"))) continue;
      const flag = document.createElement(row.classList.contains("invitation") ? "span" : "button");
      flag.className = "role-flag";
      if (flag.tagName === "BUTTON") {
        flag.type = "button";
        flag.id = `flag-${row.id}`;
        flag.setAttribute("role", "slider");
        flag.setAttribute("aria-label", `How far ${row.querySelector("b").textContent} may go`);
        flag.setAttribute("aria-valuemin", "0");
        flag.setAttribute("aria-valuemax", "3");
        flag.setAttribute("aria-valuenow", String(ROLES.indexOf(row.dataset.role)));
        flag.setAttribute("aria-valuetext", row.dataset.role);
      }
      row.append(flag);
      place(row);
    }
  }

  document.addEventListener("keydown", (event) => {
    const flag = event.target.closest?.(".role-flag");
    const way = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
    if (!flag || !way) return;
    event.preventDefault();
    const row = flag.closest(".person");
    const next = ROLES[ROLES.indexOf(row.dataset.role) + way];
    if (next) send(row, next);
  });

  let dragged = null;
  document.addEventListener("pointerdown", (event) => {
    const flag = event.target.closest?.("button.role-flag");
    if (!flag) return;
    flag.setPointerCapture(event.pointerId);
    dragged = { flag, row: flag.closest(".person"), role: null };
  });
  document.addEventListener("pointermove", (event) => {
    if (!dragged) return;
    const box = dragged.row.getBoundingClientRect();
    const x = event.clientX - box.left;
    const stops = ROLES.map((role) => {
      const last = dragged.row.querySelector(`[data-act=${LAST[role]}]`);
      return [role, last.offsetLeft + last.offsetWidth];
    });
    dragged.role = stops.reduce((best, stop) => (Math.abs(stop[1] - x) < Math.abs(best[1] - x) ? stop : best))[0];
    dragged.flag.style.left = `${Math.max(stops[0][1], Math.min(stops[stops.length - 1][1], x)) - 12}px`;
  });
  document.addEventListener("pointerup", () => {
    if (dragged?.role) send(dragged.row, dragged.role);
    dragged = null;
  });

  document.addEventListener("DOMContentLoaded", dress);
  addEventListener("resize", () => document.querySelectorAll(".person:has(.role-flag)").forEach(place));
})();
