<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * Reduces a statement to what makes it that statement: literals and parameters become `?`, lists of them and repeated
 * rows of VALUES one mark, keywords capitals, white space and comments go, generated endings of temporary names `$`.
 *
 * Normalising a normalised text returns it unchanged.
 */
final readonly class Normaliser
{
    private const LIST = ['?', ',', '...'];

    /** Names made for one run: a telling beginning, and an ending of digits or hexadecimal digits. */
    private const TEMPORARY = '~^(\#{1,2}|(?:\#{0,2}(?:tmp|temp|stg|stage|staging|scratch|work)_))(.*?)(?:_?(?:\$|\d{3,'
        .'}|(?=[0-9a-f]*\d)[0-9a-f]{6,}))+$~iD';

    private Lexer $lexer;

    public function __construct(private Dialect $dialect = Dialect::Ansi)
    {
        $this->lexer = new Lexer($dialect);
    }

    public function normalise(string $sql): string
    {
        $tokens = $this->reduce($sql);

        return self::join(self::collapse($this->dialect === Dialect::MariaDb ? ServerWords::same($tokens) : $tokens));
    }

    /**
     * @return list<string> meaningful tokens, literals already `?`
     */
    private function reduce(string $sql): array
    {
        $keywords = Keywords::set();
        $isServer = $this->dialect === Dialect::MariaDb;
        $out = [];
        $last = -1;
        foreach ($this->lexer->pieces($sql) as [$kind, $text]) {
            switch ($kind) {
                case 's':
                case 'c':
                case 'h':
                    continue 2;
                case 't':
                case 'n':
                case 'p':
                    if ($isServer && $text[0] === '@') {
                        $text = '@?';
                        break;
                    }
                    // A sign that belongs to the value, not between two values, is part of the literal.
                    while (
                        $last >= 0 &&
                        ($out[$last] === '-' || $out[$last] === '+') &&
                        ($last === 0 || ! self::isOperand($out[$last - 1]))
                    ) {
                        array_pop($out);
                        $last--;
                    }
                    $text = '?';
                    break;
                case 'w':
                    $upper = strtoupper($text);
                    $text = isset($keywords[$upper]) ? $upper : self::stableName($text);
                    // Behind a dot it is a name, whatever word it is.
                    if ($isServer && ($last < 0 || $out[$last] !== '.')) {
                        $text = ServerWords::word($text);
                    }
                    break;
                case 'q':
                    $text = self::stableName(self::unquote($text));
                    break;
            }
            $out[] = $text;
            $last++;
        }
        while ($last >= 0 && $out[$last] === ';') {
            array_pop($out);
            $last--;
        }

        return $out;
    }

    private static function isOperand(string $token): bool
    {
        $first = $token[0];

        return $token === '?' ||
            $first === ')' ||
            $first === ']' ||
            $first === '"' ||
            $first === '`' ||
            ((ctype_alnum($first) || $first === '_' || $first === '@' || $first === '#' || $first >= "\x80") &&
                (! isset(Keywords::set()[$token]) || $token === 'NULL' || $token === 'END'));
    }

    private static function unquote(string $quoted): string
    {
        $closing = $quoted[0] === '[' ? ']' : $quoted[0];
        $closed = str_ends_with($quoted, $closing) && strlen($quoted) > 1;
        // A name that is never closed ends with the statement, without the white space there.
        $bare = $closed ? substr($quoted, 1, -1) : rtrim(substr($quoted, 1));

        return preg_match('~^[A-Za-z_][\w$]*$~D', $bare) === 1 && ! Keywords::has($bare) ? $bare : $quoted;
    }

    private static function stableName(string $name): string
    {
        $length = strlen($name);
        if ($length < 5 || strpbrk($name[0], 'tTsSwW#') === false) {
            return $name;
        }

        return preg_replace(self::TEMPORARY, '$1$2_\$', $name) ?? $name;
    }

    /**
     * @param  list<string>  $tokens
     * @return list<string>
     */
    private static function collapse(array $tokens): array
    {
        if (! in_array('IN', $tokens, true) && ! in_array('VALUES', $tokens, true) && ! in_array('ARRAY', $tokens, true)) {
            return $tokens;
        }
        $out = [];
        for ($i = 0, $n = count($tokens); $i < $n; $i++) {
            $token = $tokens[$i];
            $out[] = $token;
            $next = $tokens[$i + 1] ?? '';
            if (($token === 'IN' && $next === '(') || ($token === 'ARRAY' && $next === '[')) {
                $close = self::listEnd($tokens, $i + 1);
                if ($close !== null) {
                    array_push($out, $next, '?', ',', '...', $tokens[$close]);
                    $i = $close;
                }
            } elseif ($token === 'VALUES' && $next === '(') {
                $i = self::collapseRows($tokens, $i + 1, $out) - 1;
            }
        }

        return $out;
    }

    /**
     * @param  list<string>  $tokens
     */
    private static function listEnd(array $tokens, int $open): ?int
    {
        $closing = $tokens[$open] === '[' ? ']' : ')';
        for ($i = $open + 1, $n = count($tokens); $i < $n; $i++) {
            if ($tokens[$i] === $closing) {
                return $i === $open + 1 ? null : $i;
            }
            if (! in_array($tokens[$i], self::LIST, true) && ! in_array($tokens[$i], ['NULL', 'TRUE', 'FALSE'], true)) {
                return null;
            }
        }

        return null;
    }

    /**
     * @param  list<string>  $tokens
     * @param  list<string>  $out
     * @return int index of the first token behind the rows
     */
    private static function collapseRows(array $tokens, int $start, array &$out): int
    {
        $seen = [];
        $count = count($tokens);
        $at = $start;
        while ($at < $count && $tokens[$at] === '(') {
            $depth = 0;
            $end = $at;
            for (; $end < $count; $end++) {
                $depth += $tokens[$end] === '(' ? 1 : ($tokens[$end] === ')' ? -1 : 0);
                if ($depth === 0) {
                    break;
                }
            }
            $row =
                self::listEnd($tokens, $at) === $end && $end < $count
                    ? ['(', '?', ',', '...', ')']
                    : array_slice($tokens, $at, $end - $at + 1);
            $key = implode(' ', $row);
            if (! isset($seen[$key])) {
                array_push($out, ...$seen === [] ? [] : [','], ...$row);
                $seen[$key] = true;
            }
            $at = $end + 1;
            if (($tokens[$at] ?? '') !== ',') {
                break;
            }
            if (($tokens[$at + 1] ?? '') !== '(') {
                if (($tokens[$at + 1] ?? '') === '...') {
                    $at += 2;
                }
                break;
            }
            $at++;
        }

        return $at;
    }

    /**
     * @param  list<string>  $tokens
     */
    private static function join(array $tokens): string
    {
        $keywords = Keywords::set();
        $text = '';
        $before = '';
        foreach ($tokens as $token) {
            $tight =
                $before === '' ||
                $before === '(' ||
                $before === '.' ||
                $token === ',' ||
                $token === ')' ||
                $token === '.' ||
                ($token === '(' &&
                    ($before[0] === '_' || ctype_alpha($before[0])) &&
                    (! isset($keywords[$before]) || self::isFunction($before)));
            $text .= $tight ? $token : ' '.$token;
            $before = $token;
        }

        return trim($text);
    }

    private static function isFunction(string $keyword): bool
    {
        return in_array(
            $keyword,
            [
                'COUNT',
                'SUM',
                'AVG',
                'MIN',
                'MAX',
                'COALESCE',
                'CAST',
                'DATE_TRUNC',
                'EXTRACT',
                'ROUND',
                'NOW',
                'RANK',
                'ROW_NUMBER',
                'LOWER',
                'UPPER',
                'TRIM',
                'SUBSTRING',
                'CONCAT',
                'NULLIF',
                'GREATEST',
                'LEAST',
                'LENGTH',
                'MOD',
                'DATE',
            ],
            true,
        );
    }
}
