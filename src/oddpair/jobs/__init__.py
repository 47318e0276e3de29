"""Durable background work: the queue, the worker process, and the tasks, which call services only."""
