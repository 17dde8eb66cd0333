"""Plan → run → timeline: what one day does to water, heat and people."""
