"""States that tests begin with: each is made once, kept for the next session, and copied for every test that asks for it.

- ``server``: the PostgreSQL server that all test processes share
- ``state``: what a state is, and how its copies are made
- ``site``: what a test works on: a database and a folder of its own
- ``registers``: the states that tests of more than one file begin with
"""
