"""The pages: thin routes, display-ready page classes, templates. No arithmetic of the job."""
