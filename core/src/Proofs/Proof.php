<?php

declare(strict_types=1);

namespace Fulcrion\Core\Proofs;

use Fulcrion\Core\Text\Quantity;

/**
 * The same statements before and after a change, side by side.
 */
final readonly class Proof
{
    /** A smaller difference is none that anybody would see. */
    private const ALIKE = 0.005;

    /** @var list<ProofLine> what got worse first, then by what it saves a week */
    public array $lines;

    /**
     * @param  list<ProofLine>  $lines
     */
    public function __construct(array $lines)
    {
        usort(
            $lines,
            static fn (ProofLine $a, ProofLine $b): int => [$b->failed(), $b->equal() === false, $b->isWorse(), self::saved($b)] <=> [
                $a->failed(),
                $a->equal() === false,
                $a->isWorse(),
                self::saved($a),
            ],
        );
        $this->lines = $lines;
    }

    /**
     * Of what reads; writes are measured in another way, so they stand for themselves.
     *
     * @return array{bytesRead: int, chunksRead: int, bytesSent: int, us: int, coldUs: int, warmUs: int}
     */
    public function sum(bool $after): array
    {
        $sum = ['bytesRead' => 0, 'chunksRead' => 0, 'bytesSent' => 0, 'us' => 0, 'coldUs' => 0, 'warmUs' => 0];
        foreach ($this->lines as $line) {
            $one = $after ? $line->after : $line->before;
            if (! $line->failed() && ! $line->isWrite()) {
                $sum['bytesRead'] += $one->bytesRead;
                $sum['chunksRead'] += $one->chunksRead;
                $sum['bytesSent'] += $one->bytesSent;
                $sum['us'] += $one->us();
                $sum['coldUs'] += $one->coldUs;
                $sum['warmUs'] += $one->warmUs;
            }
        }

        return $sum;
    }

    public function factor(): float
    {
        return max(1, $this->sum(false)['us']) / max(1, $this->sum(true)['us']);
    }

    /**
     * Of the time each statement took, the share it takes after the change; of what reads and did not fail.
     *
     * @return array<string, float> by fingerprint
     */
    public function remaining(): array
    {
        $times = [];
        foreach ($this->lines as $line) {
            if (! $line->failed() && ! $line->isWrite()) {
                $known = $times[$line->statement] ?? [0, 0];
                $times[$line->statement] = [$known[0] + $line->before->us(), $known[1] + $line->after->us()];
            }
        }

        return array_map(static fn (array $us): float => max(1, $us[1]) / max(1, $us[0]), $times);
    }

    public function worstEstimate(bool $after): float
    {
        return max([
            1.0,
            ...array_map(
                static fn (ProofLine $line): float => $after ? $line->after->worstEstimate : $line->before->worstEstimate,
                $this->lines,
            ),
        ]);
    }

    /** Whether all results that could be compared are the same, and none failed after the change. */
    public function holds(): bool
    {
        $compared = false;
        foreach ($this->lines as $line) {
            if ($line->after->error !== '' || $line->equal() === false) {
                return false;
            }
            $compared = $compared || ! $line->failed();
        }

        return $compared;
    }

    /** Whether it is more by what anybody would see: a difference of half a hundredth is none. */
    public static function isMore(float $after, float $before): bool
    {
        return $after > $before * (1 + self::ALIKE);
    }

    public function sentence(): string
    {
        if ($this->lines === []) {
            return 'No statement was compared';
        }
        $writes = array_values(array_filter($this->lines, static fn (ProofLine $line): bool => $line->isWrite()));
        $count = count($this->lines) - count($writes);
        if ($count === 0) {
            return ucfirst(self::written($writes));
        }
        $failed = count(array_filter($this->lines, static fn (ProofLine $line): bool => $line->after->error !== ''));
        $newly = count(array_filter($this->lines, static fn (ProofLine $line): bool => $line->failed() && $line->after->error === ''));
        $differ = count(array_filter($this->lines, static fn (ProofLine $line): bool => $line->equal() === false));
        $worse = count(array_filter($this->lines, static fn (ProofLine $line): bool => $line->isWorse()));
        [$before, $after] = [$this->sum(false), $this->sum(true)];
        $modelled = array_filter($this->lines, static fn (ProofLine $line): bool => $line->before->modelledUs !== null) !== [];

        return ($count === 1 ? '1 statement' : "{$count} statements").
            ' took '.
            Quantity::duration($before['us']).
            ' and '.
            'now '.($count === 1 ? 'takes' : 'take').(self::isMore($after['us'], $before['us']) ? ' more:' : '').
            ' '.
            Quantity::duration($after['us']).
            ($modelled ? ' (modelled)' : ' (measured)').
            ($before['bytesRead'] + $after['bytesRead'] > 0
                ? ', and read '.Quantity::bytes($after['bytesRead']).' instead of '.Quantity::bytes($before['bytesRead'])
                : '').
            ($worse > 0 ? "; {$worse} got worse" : '').
            ($differ > 0 ? "; the results of {$differ} differ" : '; all results are equal').
            ($failed > 0 ? "; {$failed} failed" : '').
            ($newly > 0 ? "; {$newly} could only be run afterwards" : '').
            ($writes === [] ? '' : '; '.self::written($writes));
    }

    /**
     * @param  list<ProofLine>  $writes
     */
    private static function written(array $writes): string
    {
        $us = static fn (bool $after): string => Quantity::duration(
            array_sum(array_map(static fn (ProofLine $line): int => ($after ? $line->after : $line->before)->us(), $writes)),
        );
        $one = count($writes) === 1;

        return ($one ? '1 write' : count($writes).' writes').
            " took {$us(false)} on a copy and now ".
            ($one ? 'takes' : 'take').
            " {$us(true)} (measured)";
    }

    private static function saved(ProofLine $line): float
    {
        return $line->executionsPerWeek * ($line->before->us() - $line->after->us());
    }
}
