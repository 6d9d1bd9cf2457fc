<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * Lays a statement out in lines for reading: a clause a line, nested queries indented. Only white space changes.
 */
final readonly class Pretty
{
    private const CLAUSES = [
        'SELECT',
        'FROM',
        'WHERE',
        'GROUP',
        'HAVING',
        'ORDER',
        'LIMIT',
        'UNION',
        'EXCEPT',
        'INTERSECT',
        'VALUES',
        'SET',
        'WITH',
        'QUALIFY',
        'WINDOW',
        'RETURNING',
    ];

    private const JOINS = ['JOIN', 'LEFT', 'RIGHT', 'INNER', 'FULL', 'CROSS', 'NATURAL'];

    public function __construct(private Lexer $lexer = new Lexer(), private int $width = 96)
    {
    }

    /**
     * @return list<array{kind: TokenKind, text: string}> pieces with line breaks and indentation as Space
     */
    public function pieces(string $sql): array
    {
        $tokens = array_values(
            array_filter($this->lexer->tokens($sql), static fn (Token $token): bool => $token->kind !== TokenKind::Space),
        );
        $out = [];
        $column = 0;
        $brackets = [];
        $indent = 0;
        $before = null;
        foreach ($tokens as $i => $token) {
            $upper = strtoupper($token->text);
            $next = strtoupper(($tokens[$i + 1] ?? $token)->text);
            $previous = $before === null ? '' : strtoupper($before->text);
            $plainBracket = $brackets !== [] && $brackets[count($brackets) - 1] === false;
            if ($upper === ')' && array_pop($brackets) === true) {
                $indent = max(0, $indent - 1);
                $this->breakLine($out, $column, $indent);
            } elseif ($token->kind === TokenKind::Keyword && $before !== null && $this->startsLine($upper, $previous, $plainBracket)) {
                $this->breakLine($out, $column, $indent);
            } elseif (
                $token->kind === TokenKind::Keyword &&
                in_array($upper, ['AND', 'OR'], true) &&
                ! $plainBracket &&
                $column > $this->width / 2
            ) {
                $this->breakLine($out, $column, $indent + 1);
            } elseif ($column > $this->width && $previous === ',') {
                $this->breakLine($out, $column, $indent + 1);
            } elseif ($before !== null && ! self::tight($before, $token, $sql)) {
                $out[] = ['kind' => TokenKind::Space, 'text' => ' '];
                $column++;
            }
            $out[] = ['kind' => $token->kind, 'text' => $token->text];
            $column += strlen($token->text);
            if ($upper === '(') {
                $nested = in_array($next, ['SELECT', 'WITH'], true);
                $brackets[] = $nested;
                if ($nested) {
                    $indent++;
                    $this->breakLine($out, $column, $indent);
                    $before = null;

                    continue;
                }
            }
            $before = $token;
        }

        return $out;
    }

    public function text(string $sql): string
    {
        return implode('', array_column($this->pieces($sql), 'text'));
    }

    private function startsLine(string $upper, string $previous, bool $plainBracket): bool
    {
        // Inside plain brackets, FROM and ORDER belong to functions and windows.
        if ($plainBracket) {
            return false;
        }

        return (in_array($upper, self::CLAUSES, true) && ! ($upper === 'SET' && $previous !== '' && $previous[0] === '(')) ||
            (in_array($upper, self::JOINS, true) && ! in_array($previous, [...self::JOINS, 'OUTER'], true));
    }

    /**
     * @param  list<array{kind: TokenKind, text: string}>  $out
     */
    private function breakLine(array &$out, int &$column, int $indent): void
    {
        $out[] = ['kind' => TokenKind::Space, 'text' => "\n".str_repeat('  ', $indent)];
        $column = 2 * $indent;
    }

    private static function tight(Token $before, Token $token, string $sql): bool
    {
        return in_array($before->text, ['(', '.', '['], true) ||
            in_array($token->text, [')', ',', '.', ';', ']'], true) ||
            // Function calls and casts stay as they were written.
            ((in_array($token->text, ['(', '[', '::'], true) || $before->text === '::') &&
                $before->offset + strlen($before->text) === $token->offset);
    }
}
