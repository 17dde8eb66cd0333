"""Pages about Isotherma itself: kinds, elements, kernels."""
