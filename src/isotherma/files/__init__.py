"""Reading and writing of open files: the project file and the timeline."""
