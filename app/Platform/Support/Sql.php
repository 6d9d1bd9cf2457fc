<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Lexer;
use Fulcrion\Core\Sql\Pretty;
use Fulcrion\Core\Sql\TokenKind;
use Illuminate\Support\HtmlString;

/**
 * Statements as HTML.
 */
final class Sql
{
    /** Beyond this many bytes a text is shown cut; colouring it all would only slow the page. */
    public const SHOWN = 20_000;

    public static function pretty(string $sql, Dialect $dialect = Dialect::Ansi): HtmlString
    {
        $cut = mb_strcut($sql, 0, self::SHOWN);
        $html = '';
        foreach ((new Pretty(new Lexer($dialect)))->pieces($cut) as ['kind' => $kind, 'text' => $text]) {
            $class = match ($kind) {
                TokenKind::Keyword => 'kw',
                TokenKind::Text, TokenKind::Number => 'lit',
                TokenKind::Parameter, TokenKind::Ellipsis => 'par',
                TokenKind::Comment, TokenKind::Hint => 'com',
                default => null,
            };
            $html .= $class === null ? e($text) : "<span class=\"{$class}\">".e($text).'</span>';
        }
        if (strlen($cut) < strlen($sql)) {
            $html .= "\n<span class=\"com\">… ".e(number_format(strlen($sql) - strlen($cut))).' more bytes</span>';
        }

        return new HtmlString($html);
    }

    /** A short line for lists: capitals and spaces as they are, the middle left out. */
    public static function line(string $sql, int $length = 150): string
    {
        return mb_strlen($sql) <= $length ? $sql : mb_substr($sql, 0, $length - 1).'…';
    }
}
