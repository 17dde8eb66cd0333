"""Starting and stopping: the private database cluster and the server."""
