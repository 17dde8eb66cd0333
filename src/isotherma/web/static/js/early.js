/* Before anything is painted: what scripts will hide or show is not seen to go or come. */
document.documentElement.classList.add("js");
