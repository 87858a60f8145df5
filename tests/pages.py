"""What a page says, however its template is broken into lines."""

from django.utils.html import strip_tags


def words_of(response):
    return " ".join(strip_tags(response.content.decode()).split())
