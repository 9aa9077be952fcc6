"""From text to trees and back: the layout, grammars, parsing, printing, and how long a line may be."""
