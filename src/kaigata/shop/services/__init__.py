"""The work between views and core: each opens its transaction, calls the core, keeps the result."""
