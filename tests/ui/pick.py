"""Choosing from a list of the screen."""


def pick(scope, label, text, nth=0):
    """Open the list that is called so, and choose the option with these words."""
    field = scope.get_by_label(label).nth(nth)
    field.click()
    page = field.page
    page.get_by_role("option", name=text, exact=True).click()
