"""Work on both faces of stock: how it is turned over and comes to lie where it lay, and what one face leaves
to the other. ``turn`` (where things lie then), ``registration`` (dowels, fences, edges), ``dowel_pattern``
(does it fit only as meant), ``dowel_places`` (where dowels may go), ``meeting`` (how well the faces meet),
``seen`` (a plan as a setup of turned stock sees it), ``face_turns`` (what is cut of a face that is up twice),
``singly`` (pieces turned one by one into a jig), ``hollow`` (what is cut over what the other face took),
``left_by_first`` and ``between`` (what the turns before have left, and what stands between both faces).
Nothing here cuts: turned stock is planned, held, ordered and proven as any other.

>>> from venzo.core.faces.turn import Turn
>>> from venzo.core.plan import Piece
>>> Turn("y", 600, 400).piece(Piece(part="p", copy_no=0, sheet="s", sheet_copy=0, x=100, y=50)).x
500.0
"""
