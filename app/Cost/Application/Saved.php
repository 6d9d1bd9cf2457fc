<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Ledger\Changes\ChangeState;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Platform\Support\Money;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Text\Quantity;

/**
 * What a change promised to save and what it saved.
 */
final readonly class Saved
{
    /** From here on a promise counts as kept; use of two months is never quite the same. */
    private const KEPT = 0.8;

    /**
     * @param  list<string>  $statements its proof compares, fingerprints
     * @param  int  $compared of them ran before and since
     * @param  int  $days it was in force that use is known of
     * @param  float|null  $promisedUs a week in flight; null where its proof compares no statements
     * @param  float|null  $savedUs a week in flight, below zero where they take longer; null where it cannot be told yet
     * @param  BigDecimal|null  $promisedMoney a month
     * @param  BigDecimal|null  $savedMoney a month
     */
    public function __construct(
        public Change $change,
        public ?ProofRecord $proof,
        public array $statements,
        public int $compared,
        public int $days,
        public ?float $promisedUs,
        public ?float $savedUs,
        public ?BigDecimal $promisedMoney,
        public ?BigDecimal $savedMoney,
        public string $currency,
    ) {
    }

    public function isInForce(): bool
    {
        return $this->change->state === ChangeState::Applied;
    }

    /** Whether less was saved than promised by more than chance does. */
    public function isBroken(): bool
    {
        return $this->isInForce() && $this->promisedUs > 0 && $this->savedUs !== null && $this->savedUs < self::KEPT * $this->promisedUs;
    }

    public function mark(): string
    {
        return match (true) {
            $this->savedUs === null, ! $this->isInForce() => 'no data',
            $this->savedUs < 0 => 'act',
            $this->isBroken() => 'watch',
            default => 'calm',
        };
    }

    /** In words, how it stands. */
    public function standing(): string
    {
        return match (true) {
            $this->promisedUs === null => 'not told by statements: see its proof',
            $this->savedUs === null && $this->days === 0 => $this->isInForce() ? 'in force for less than a whole day'
                : 'undone before a whole day was over',
            $this->savedUs === null => 'none of its statements ran both before and since',
            ! $this->isInForce() => 'undone',
            $this->savedUs < 0 => 'takes longer than before',
            $this->isBroken() => 'less than promised',
            default => 'as promised',
        };
    }

    public function promised(): string
    {
        return self::amount($this->promisedMoney, $this->promisedUs, $this->currency);
    }

    public function really(): string
    {
        return self::amount($this->savedMoney, $this->savedUs, $this->currency);
    }

    private static function amount(?BigDecimal $money, ?float $usPerWeek, string $currency): string
    {
        return match (true) {
            $money !== null => Money::exact($money, $currency),
            $usPerWeek === null => Quantity::NONE,
            default => ($usPerWeek < 0 ? Quantity::MINUS : '').Quantity::duration(abs($usPerWeek)).' a week',
        };
    }
}
