"""The web over the desk: ``app`` puts it together, ``guard`` lets in only this machine's own pages,
``routes`` has a module a matter, ``documents`` what they answer.

Routes read a request, call the desk and give a document; they decide nothing about the trade.
"""
