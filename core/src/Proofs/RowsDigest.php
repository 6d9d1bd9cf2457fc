<?php

declare(strict_types=1);

namespace Fulcrion\Core\Proofs;

/**
 * A digest of rows whatever their order. Floating point numbers count with seven significant digits, since sums differ
 * in the last ones with the order of what is summed.
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
        $text = '';
        foreach ($row as $value) {
            // Whole floats equal whole numbers of another type.
            $text .= match (true) {
                $value === null => "\0n",
                is_float($value) => sprintf('%.6e', $value + 0.0),
                is_bool($value) => $value ? 'b1' : 'b0',
                default => (string) $value,
            }."\0";
        }
        /** @var array{a: int, b: int} $parts */
        $parts = unpack('Na/Nb', hash('xxh3', $text, true));
        $this->low = ($this->low + $parts['a']) & 0xFFFFFFFF;
        $this->high = ($this->high + $parts['b']) & 0xFFFFFFFF;
        $this->rows++;
    }

    public function text(): string
    {
        return sprintf('%08x%08x-%d', $this->low, $this->high, $this->rows);
    }
}
