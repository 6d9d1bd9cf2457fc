<?php

declare(strict_types=1);

namespace Fulcrion\Core\Proofs;

/**
 * A digest of rows whatever their order. Floating point numbers count with seven significant digits, since sums differ
 * in the last ones with the order of what is summed. They are cut where no decimal fraction lies, so that a mean of
 * 12.34565 is not rounded up in one order and down in the other.
 */
final class RowsDigest
{
    private int $low = 0;

    private int $high = 0;

    private int $rows = 0;

    /**
     * @param  list<int|float|string|bool|null>  $row
     */
    public function add(array $row): void
    {
        /** @var array{a: int, b: int} $parts */
        $parts = unpack('Na/Nb', hash('xxh3', self::key($row), true));
        $this->low = ($this->low + $parts['a']) & 0xFFFFFFFF;
        $this->high = ($this->high + $parts['b']) & 0xFFFFFFFF;
        $this->rows++;
    }

    /**
     * The same for rows that count as equal.
     *
     * @param  list<int|float|string|bool|null>  $row
     */
    public static function key(array $row): string
    {
        $text = '';
        foreach ($row as $value) {
            // A zero byte ends a value, so one inside of a text is marked.
            $text .=
                match (true) {
                    $value === null => "\0n",
                    is_float($value) => self::digits($value),
                    is_bool($value) => $value ? 'b1' : 'b0',
                    default => str_replace("\0", "\0\1", (string) $value),
                }."\0";
        }

        return $text;
    }

    private static function digits(float $value): string
    {
        if (! is_finite($value)) {
            return (string) $value;
        }
        if (abs($value) < 1e-9) {
            return '0';
        }
        $power = (int) floor(log10(abs($value) * 1.03178));

        return sprintf('%.0f@%d', floor($value / 10 ** ($power - 6) + 0.31783), $power);
    }

    public function text(): string
    {
        return sprintf('%08x%08x-%d', $this->low, $this->high, $this->rows);
    }
}
