"""What a person does in Venzo, one module a matter. API and command line both come through here; it joins
core, formats and store.

Jobs (start, derive, prove, release), drawings, the shop library, holding, carving, spoilboards and boards to
surface, remedies, and programs that come from elsewhere. Nothing here knows of the web; the rules of the
trade are in core.
"""
