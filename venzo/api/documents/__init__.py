"""What the API answers: a Pydantic document for every operation, and the making of those that are more than a
value of the core or the desk.

The TypeScript types of the screen are generated from them (``npm run types``).
"""
