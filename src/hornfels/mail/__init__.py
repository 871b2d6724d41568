"""Mail: handed to a server, or kept by a stand-in for one."""
