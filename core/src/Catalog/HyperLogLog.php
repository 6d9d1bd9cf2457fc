<?php

declare(strict_types=1);

namespace Fulcrion\Core\Catalog;

/**
 * Counts distinct values in 4 KiB with a standard error of 1.6% (Flajolet, Fusy, Gandouet and Meunier, "HyperLogLog:
 * the analysis of a near-optimal cardinality estimation algorithm", 2007), with linear counting for small sets.
 * Two sketches merge into that of the union.
 */
final class HyperLogLog
{
    private const BITS = 12;

    private const REGISTERS = 1 << self::BITS;

    /** @var array<int, int> register => highest rank seen; registers not seen are left out */
    private array $ranks = [];

    public function add(string $value): void
    {
        /** @var array{1: int} $parts */
        $parts = unpack('J', hash('xxh3', $value, true));
        $register = ($parts[1] >> (64 - self::BITS)) & (self::REGISTERS - 1);
        // The rank is the place of the first one among the bits behind the register's.
        $bits = $parts[1] & ((1 << (64 - self::BITS)) - 1);
        $rank = $bits === 0 ? 65 - self::BITS : 65 - self::BITS - strlen(decbin($bits));
        $this->raise($register, $rank);
    }

    public function merge(self $other): void
    {
        foreach ($other->ranks as $register => $rank) {
            $this->ranks[$register] = max($rank, $this->ranks[$register] ?? 0);
        }
    }

    /** The sketch as text: "s" and three bytes a register where few are set, else "d" and a character a register. */
    public function toText(): string
    {
        if (3 * count($this->ranks) < self::REGISTERS) {
            $bytes = '';
            foreach ($this->ranks as $register => $rank) {
                $bytes .= substr(pack('N', ($register << 6) | $rank), 1);
            }

            return 's'.base64_encode($bytes);
        }
        $text = str_repeat('0', self::REGISTERS);
        foreach ($this->ranks as $register => $rank) {
            $text[$register] = chr(48 + $rank);
        }

        return 'd'.$text;
    }

    /** Merges a sketch that was written as text. */
    public function mergeText(string $text): void
    {
        if ($text[0] === 's') {
            foreach (str_split((string) base64_decode(substr($text, 1), true), 3) as $three) {
                if (strlen($three) === 3) {
                    /** @var array{1: int} $word */
                    $word = unpack('N', "\0{$three}");
                    $this->raise($word[1] >> 6, $word[1] & 63);
                }
            }

            return;
        }
        for ($register = 0; $register < self::REGISTERS; $register++) {
            $this->raise($register, ord($text[$register + 1]) - 48);
        }
    }

    private function raise(int $register, int $rank): void
    {
        if ($rank > ($this->ranks[$register] ?? 0)) {
            $this->ranks[$register] = $rank;
        }
    }

    public function estimate(): int
    {
        $empty = self::REGISTERS - count($this->ranks);
        $sum = (float) $empty;
        foreach ($this->ranks as $rank) {
            $sum += 2.0 ** -$rank;
        }
        $estimate = ((0.7213 / (1 + 1.079 / self::REGISTERS)) * self::REGISTERS * self::REGISTERS) / $sum;
        if ($estimate <= 2.5 * self::REGISTERS && $empty > 0) {
            $estimate = self::REGISTERS * log(self::REGISTERS / $empty);
        }

        return (int) round($estimate);
    }
}
