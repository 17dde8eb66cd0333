"""What feeds a system: gas that boils in its bottle, panels, the battery, the hours of a day."""
