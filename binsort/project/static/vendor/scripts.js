// Before anything is drawn: what needs scripts may show.
document.documentElement.classList.add("scripts");
