<?php

declare(strict_types=1);

namespace Fulcrion\Core\Text;

/**
 * Parts of a text, and texts of which some are missing.
 */
final class Parts
{
    /**
     * Those that say something: neither missing nor empty; "0" does.
     *
     * @param  iterable<string|false|null>  $texts
     * @return list<string> in their order
     */
    public static function said(iterable $texts): array
    {
        $said = [];
        foreach ($texts as $text) {
            if (is_string($text) && $text !== '') {
                $said[] = $text;
            }
        }

        return $said;
    }

    /** The first that says something; an empty text where none does. */
    public static function first(string|false|null ...$texts): string
    {
        return self::said($texts)[0] ?? '';
    }

    /**
     * What stands between commas or another mark, without blanks around it.
     *
     * @param  non-empty-string  $mark
     * @return list<string> none of them empty
     */
    public static function between(string $text, string $mark = ','): array
    {
        return self::said(array_map(trim(...), explode($mark, $text)));
    }

    /**
     * What stands between places that a pattern finds.
     *
     * @param  string  $pattern of PCRE with its delimiters
     * @param  bool  $withMarks whether what the pattern holds in brackets stands among the parts
     * @return list<string> none of them empty; none at all where the text cannot be read by the pattern
     */
    public static function split(string $pattern, string $text, bool $withMarks = false): array
    {
        $parts = preg_split($pattern, $text, -1, PREG_SPLIT_NO_EMPTY | ($withMarks ? PREG_SPLIT_DELIM_CAPTURE : 0));

        return $parts === false ? [] : $parts;
    }
}
