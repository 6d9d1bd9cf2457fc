<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Names;

use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Lexer;
use Fulcrion\Core\Sql\Token;
use Fulcrion\Core\Sql\TokenKind;

/**
 * Tables found by the words before them, in texts no parser of ours takes: those of another engine, or normalised ones. It may miss
 * what is said in an unusual way, and names nothing that does not stand where a table stands.
 */
final class TableMentions
{
    /** Calls in which FROM does not come before a table. */
    private const CALLS = ['EXTRACT', 'TRIM', 'SUBSTRING', 'OVERLAY'];

    /** What may stand between a word and the table it announces. */
    private const BETWEEN = [
        'ONLY', 'LATERAL', 'IGNORE', 'LOW_PRIORITY', 'HIGH_PRIORITY', 'DELAYED', 'QUICK', 'IF', 'NOT', 'EXISTS', 'TABLE', 'TEMPORARY',
    ];

    /** What ends the list of tables of a FROM. */
    private const ENDS = [
        'WHERE', 'GROUP', 'ORDER', 'HAVING', 'LIMIT', 'UNION', 'EXCEPT', 'INTERSECT', 'SET', 'SELECT', 'VALUES', 'WINDOW',
    ];

    private const NAMES = [TokenKind::Word, TokenKind::QuotedName, TokenKind::Keyword];

    /** @var list<Token> without space and comments */
    private readonly array $tokens;

    /** First word of the statement, in capitals. */
    private readonly string $first;

    /** @var array<string, true> */
    private array $common = [];

    /** @var array{r: array<string, true>, w: array<string, true>, o: array<string, true>} by how it is used */
    private array $found = ['r' => [], 'w' => [], 'o' => []];

    private function __construct(string $text, Dialect $dialect, private readonly string $schema)
    {
        $this->tokens = array_values(array_filter(
            (new Lexer($dialect))->tokens($text),
            static fn (Token $one): bool => ! in_array($one->kind, [TokenKind::Space, TokenKind::Comment, TokenKind::Hint], true),
        ));
        $this->first = $this->word(0);
    }

    /**
     * @return array{list<string>, list<string>, list<string>} read, written, only looked after
     */
    public static function of(string $text, Dialect $dialect, string $schema): array
    {
        $mentions = new self($text, $dialect, $schema);
        $mentions->scan();

        return array_map(array_keys(...), array_values($mentions->found));
    }

    private function scan(): void
    {
        foreach ($this->tokens as $i => $token) {
            // A query in brackets behind a name and AS is a common table.
            if ($this->word($i + 1) === 'AS' && $this->word($i + 2) === '(' && in_array($this->word($i + 3), ['SELECT', 'WITH'], true)) {
                $this->common[strtolower($this->name($token))] = true;
            }
        }
        /** @var non-empty-list<array{string, bool}> $frames word before the bracket, and whether a comma announces a table */
        $frames = [['', false]];
        for ($i = 0; $i < count($this->tokens); $i++) {
            $word = $this->word($i);
            $top = count($frames) - 1;
            if ($word === '(') {
                $frames[] = [$this->word($i - 1), false];
            } elseif ($word === ')') {
                $frames = $top > 0 ? array_slice($frames, 0, $top) : $frames;
            } else {
                [$call, $lists] = $frames[$top];
                $how = $this->announces($i, $word, $call, $lists);
                $frames[$top] = [$call, match (true) {
                    $word === 'FROM' => $how !== '',
                    in_array($word, self::ENDS, true) => false,
                    default => $lists,
                }];
                $i = $how === '' ? $i : $this->take($i + 1, $how);
            }
        }
    }

    /**
     * @param  string  $call word before the bracket it stands in
     * @param  bool  $lists whether a comma announces a table
     * @return 'r'|'w'|'o'|'' how the table behind it is used; empty where none is
     */
    private function announces(int $i, string $word, string $call, bool $lists): string
    {
        $before = $this->word($i - 1);

        return match ($word) {
            'FROM' => match (true) {
                in_array($call, self::CALLS, true), $before === 'DISTINCT', in_array($this->first, ['COPY', 'SHOW'], true) => '',
                $before === 'DELETE' => 'w',
                default => 'r',
            },
            ',' => $lists ? 'r' : '',
            'JOIN', 'STRAIGHT_JOIN' => 'r',
            'USING' => $this->first === 'MERGE' ? 'r' : '',
            'INTO' => in_array($this->first, ['INSERT', 'REPLACE', 'MERGE', 'WITH', 'LOAD'], true) ? 'w' : '',
            'UPDATE' => in_array($before, ['FOR', 'KEY', 'ON', 'THEN'], true) ? '' : 'w',
            default => $this->leads($i, $word),
        };
    }

    /** @return 'w'|'o'|'' */
    private function leads(int $i, string $word): string
    {
        return match (true) {
            $i === 0 && $word === 'COPY' => 'w',
            $i === 0 && $word === 'ANALYZE' => 'o',
            $word !== 'TABLE' || $i > 3 => '',
            in_array($this->first, ['CREATE', 'TRUNCATE'], true) => 'w',
            in_array($this->first, ['DROP', 'ALTER', 'OPTIMIZE', 'RENAME', 'CHECK', 'REPAIR'], true) => 'o',
            default => '',
        };
    }

    /**
     * @param  'r'|'w'|'o'  $how
     * @return int the last token that was taken
     */
    private function take(int $i, string $how): int
    {
        while (in_array($this->word($i), self::BETWEEN, true)) {
            $i++;
        }
        $parts = [];
        while (isset($this->tokens[$i]) && in_array($this->tokens[$i]->kind, self::NAMES, true)) {
            $parts[] = $this->name($this->tokens[$i]);
            if ($this->word($i + 1) !== '.') {
                break;
            }
            $i += 2;
        }
        $isCall = $how === 'r' && $this->word($i + 1) === '(';
        $isCommon = count($parts) === 1 && isset($this->common[strtolower($parts[0])]);
        if ($parts === []) {
            return $i - 1;
        }
        if (! $isCall && ! $isCommon) {
            $this->found[$how][TableNames::path($parts, $this->schema)] = true;
        }

        return $i;
    }

    private function word(int $i): string
    {
        $token = $this->tokens[$i] ?? null;

        return $token === null || in_array($token->kind, [TokenKind::QuotedName, TokenKind::Text], true) ? '' : strtoupper($token->text);
    }

    private function name(Token $token): string
    {
        return $token->kind === TokenKind::QuotedName ? str_replace(['""', '``'], ['"', '`'], substr($token->text, 1, -1)) : $token->text;
    }
}
