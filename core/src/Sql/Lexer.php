<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * Splits any text into SQL tokens. It never fails: what no rule knows becomes a one-byte operator, and whatever is
 * left open (a string, a comment) reaches to the end. Works on bytes, so broken encodings pass through unharmed.
 */
final readonly class Lexer
{
    private const NUMBER = '0[xX][0-9a-fA-F]++(?![\w$])|0[bB][01]++(?![\w$])|(?:\d++(?:\.\d*+)?|(?<![\w$)\]])\.\d++)(?:[eE][+-]?+\d++)?+('
        .'?![A-Za-z_$\x80-\xff])';

    /** A word may begin with a digit in some engines, hence the looser second form behind NUMBER. */
    private const WORD = '\#{0,2}+[A-Za-z_\x80-\xff][\w$\x80-\xff]*+|@@[\w$.]++|\d[\w$\x80-\xff]*+';

    private const PARAMETER = '\?\d*+|(?<![\w$)\]"`:]):\w++|\$\d++|@[A-Za-z_][\w$]*+|(?<=[\s(,'
        .'=<>])%(?:\(\w++\))?+s\b|\{\{?+\s*+[\w.]++\s*+\}\}?+|\#\{[^}]*+\}';

    private const OPERATOR = '<=>|->>|->|\#>>|\#>|@>|<@|!=|<>|<=|>=|\|\||&&|::|:=|==|=>|<<|>>|!~\*?+|~\*?+|[\s\S]';

    private string $pattern;

    public function __construct(private Dialect $dialect = Dialect::Ansi)
    {
        $mariaDb = $dialect === Dialect::MariaDb;
        $escaped = "(?:[^'\\\\]++|''|\\\\[\\s\\S]?+)*+'?+";
        $plain = "(?:[^']++|'')*+'?+";
        $text = $mariaDb
            ? "(?:[nNbBxX]|_\\w++)?+'{$escaped}|\"(?:[^\"\\\\]++|\"\"|\\\\[\\s\\S]?+)*+\"?+"
            : "[eE]'{$escaped}|(?:[nNbBxX]|[uU]&)?+'{$plain}";
        $name = '`(?:[^`]++|``)*+`?+|(?<![\w$)\]"`])\[[A-Za-z_\#][^\]\n]*+\]'.($mariaDb ? '' : '|"(?:[^"]++|"")*+"?+');
        $lineComment = $mariaDb ? '--(?=[\s\x00]|\z)[^\n]*+|\#[^\n]*+' : '--[^\n]*+';
        $dollar = '\$((?:[A-Za-z_]\w*+)?+)\$[\s\S]*?(?:\$\1\$|\z)';
        $this->pattern =
            "\x01".
            '\G(?:[\s\x00]++(*MARK:s)'.
            "|(?:{$lineComment})(*MARK:c)".
            "|(?:{$text})(*MARK:t)".
            "|(?:{$dollar})(*MARK:t)".
            "|(?:{$name})(*MARK:q)".
            '|(?:'.
            self::NUMBER.
            ')(*MARK:n)'.
            '|\.\.\.(*MARK:e)'.
            '|(?:'.
            self::PARAMETER.
            ')(*MARK:p)'.
            '|(?:'.
            self::WORD.
            ')(*MARK:w)'.
            '|(?!/\*)(?:'.
            self::OPERATOR.
            ")(*MARK:o))\x01";
    }

    /**
     * @return list<Token>
     */
    public function tokens(string $sql): array
    {
        $tokens = [];
        $offset = 0;
        foreach ($this->pieces($sql) as [$kind, $text]) {
            $tokens[] = new Token($kind === 'w' && Keywords::has($text) ? TokenKind::Keyword : TokenKind::from($kind), $text, $offset);
            $offset += strlen($text);
        }

        return $tokens;
    }

    /**
     * The same as tokens() without objects, for callers that read millions of statements.
     *
     * @return list<array{string, string}> value of TokenKind (words and keywords are both `w`), text
     */
    public function pieces(string $sql): array
    {
        $pieces = [];
        $end = strlen($sql);
        $offset = 0;
        while ($offset < $end) {
            // The pattern stops in front of a block comment: those may nest deeper than a pattern can follow.
            if (preg_match_all($this->pattern, $sql, $matches, PREG_SET_ORDER, $offset) > 0) {
                foreach ($matches as $match) {
                    $pieces[] = [$match['MARK'], $match[0]];
                    $offset += strlen($match[0]);
                }
            } elseif ($sql[$offset] === '/' && ($sql[$offset + 1] ?? '') === '*') {
                $length = $this->blockCommentLength($sql, $offset);
                $opener = $sql[$offset + 2] ?? '';
                $pieces[] = [$opener === '+' || $opener === '!' ? 'h' : 'c', substr($sql, $offset, $length)];
                $offset += $length;
            } else {
                $pieces[] = ['o', $sql[$offset]];
                $offset++;
            }
        }

        return $pieces;
    }

    private function blockCommentLength(string $sql, int $start): int
    {
        $depth = 0;
        $at = $start;
        // Only MariaDB's comments end at the first closing mark.
        $nests = $this->dialect !== Dialect::MariaDb;
        while (preg_match('~/\*|\*/~', $sql, $match, PREG_OFFSET_CAPTURE, $at) === 1) {
            [$mark, $at] = $match[0];
            $at += 2;
            if ($mark === '/*') {
                $depth = $nests ? $depth + 1 : 1;
            } elseif (--$depth === 0) {
                return $at - $start;
            }
        }

        return strlen($sql) - $start;
    }
}
