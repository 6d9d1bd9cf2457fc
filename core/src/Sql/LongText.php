<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * Very long statements are long by lists of values: rows of an INSERT, members of an IN. They are told apart from others
 * by what is around the lists, so most of a list can be left out before the text is taken to pieces.
 */
final class LongText
{
    /** Bytes from which it is worth the while. */
    public const FROM = 65_536;

    /** Members of a list that are kept. */
    private const KEPT = 20;

    private const VALUE = "(?:'(?:[^'\\\\]++|\\\\.|'')*+'|[+-]?+\\d[\\w.]*+|NULL\\b|\\?)";

    public static function shortened(string $sql): string
    {
        if (strlen($sql) < self::FROM) {
            return $sql;
        }
        $value = self::VALUE;
        $row = "\\(\\s*+{$value}(?:\\s*+,\\s*+{$value}){0,150}+\\s*+\\)";
        $short = '';
        $at = 0;
        while (preg_match("~({$row})|{$value}~s", $sql, $match, PREG_OFFSET_CAPTURE, $at) === 1) {
            $isRow = isset($match[1]) && $match[1][1] >= 0;
            $next = '~\\G\\s*+,\\s*+'.($isRow ? $row : $value).'~s';
            $end = $match[0][1] + strlen($match[0][0]);
            $short .= substr($sql, $at, $end - $at);
            for ($members = 1; preg_match($next, $sql, $more, 0, $end) === 1; $members++) {
                $short .= $members < ($isRow ? 2 : self::KEPT) ? $more[0] : '';
                $end += strlen($more[0]);
            }
            $at = $end;
        }

        return $short.substr($sql, $at);
    }
}
