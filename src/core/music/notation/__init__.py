"""Open formats of written music: MusicXML in and out, ABC text in."""
