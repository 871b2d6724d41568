"""The gate on a directory server's own machine: it fetches the rules from Hornfels, answers by them
over a local socket, and tells Hornfels afterwards. Nothing of it waits for the network.
"""
