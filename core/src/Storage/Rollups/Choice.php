<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rollups;

use SplPriorityQueue;

/**
 * Chooses rollups under a budget of space: the one with the most benefit a byte first, each benefit counted beside what
 * was chosen before it (Harinarayan, Rajaraman and Ullman, "Implementing data cubes efficiently", SIGMOD 1996). What
 * comes out is worth at least 63% of the best choice, less the share of the budget the largest candidate takes; the
 * best single candidate is taken instead where it is worth more.
 */
final readonly class Choice
{
    /**
     * @param  list<Candidate>  $chosen in the order of choice
     * @param  list<float>  $gains modelled time a week each saves beside those before it
     * @param  array<int, int>  $answers number of a use => number of the chosen candidate that answers it
     */
    private function __construct(public array $chosen, public array $gains, public array $answers)
    {
    }

    public function savedUs(): float
    {
        return array_sum($this->gains);
    }

    public function bytes(): float
    {
        return array_sum(array_map(static fn (Candidate $c): float => $c->bytes, $this->chosen));
    }

    /**
     * @param  list<float>  $baseUs modelled time of one execution of each use as it is
     * @param  list<float>  $weights executions a week of each use
     * @param  list<Candidate>  $candidates
     * @param  float  $budgetBytes stored bytes all together may take
     * @param  float  $keepBudgetUs modelled time a week keeping all up to date may take
     * @param  float  $leastUs gain a week from which a candidate is worth having
     */
    public static function of(
        array $baseUs,
        array $weights,
        array $candidates,
        float $budgetBytes,
        float $keepBudgetUs = INF,
        float $leastUs = 0.0,
    ): self {
        $greedy = self::greedy($baseUs, $weights, $candidates, $budgetBytes, $keepBudgetUs, $leastUs);
        $single = null;
        foreach ($candidates as $candidate) {
            $gain = self::gain($candidate, $baseUs, $weights);
            if (
                $candidate->bytes <= $budgetBytes &&
                $candidate->keepUs <= $keepBudgetUs &&
                $gain > $greedy->savedUs() &&
                $gain > ($single->gains[0] ?? $leastUs)
            ) {
                $single = new self([$candidate], [$gain], array_map(static fn (): int => 0, $candidate->costs));
            }
        }

        return $single ?? $greedy;
    }

    /**
     * @param  list<float>  $baseUs
     * @param  list<float>  $weights
     * @param  list<Candidate>  $candidates
     */
    private static function greedy(
        array $baseUs,
        array $weights,
        array $candidates,
        float $budgetBytes,
        float $keepBudgetUs,
        float $leastUs,
    ): self {
        $current = $baseUs;
        $chosen = $gains = $answers = [];
        // Gains only shrink as more is chosen, so the old ones are upper bounds and most need not be counted again.
        /** @var SplPriorityQueue<float, array{int, float, int}> $queue candidate, gain, when it was counted */
        $queue = new SplPriorityQueue();
        $queue->setExtractFlags(SplPriorityQueue::EXTR_DATA);
        foreach ($candidates as $i => $candidate) {
            $gain = self::gain($candidate, $current, $weights);
            $queue->insert([$i, $gain, 0], $gain / max(1.0, $candidate->bytes));
        }
        while (! $queue->isEmpty()) {
            /** @var array{int, float, int} $next */
            $next = $queue->extract();
            [$i, $gain, $when] = $next;
            $candidate = $candidates[$i];
            if ($candidate->bytes > $budgetBytes || $candidate->keepUs > $keepBudgetUs || $gain <= $leastUs) {
                continue;
            }
            if ($when < count($chosen)) {
                $gain = self::gain($candidate, $current, $weights);
                $queue->insert([$i, $gain, count($chosen)], $gain / max(1.0, $candidate->bytes));

                continue;
            }
            foreach ($candidate->costs as $use => $cost) {
                if ($cost < $current[$use]) {
                    $current[$use] = $cost;
                    $answers[$use] = count($chosen);
                }
            }
            $chosen[] = $candidate;
            $gains[] = $gain;
            $budgetBytes -= $candidate->bytes;
            $keepBudgetUs -= $candidate->keepUs;
        }

        return self::settled($chosen, $gains, $answers, $baseUs, $weights, $leastUs);
    }

    /**
     * What was chosen early may be of little use beside what came later; it is left out again.
     *
     * @param  list<Candidate>  $chosen
     * @param  list<float>  $gains
     * @param  array<int, int>  $answers
     * @param  list<float>  $baseUs
     * @param  list<float>  $weights
     */
    private static function settled(array $chosen, array $gains, array $answers, array $baseUs, array $weights, float $leastUs): self
    {
        foreach (array_keys($chosen) as $i) {
            $others = array_diff_key($chosen, [$i => true]);
            $current = self::best($others, $baseUs)[0];
            if (self::gain($chosen[$i], $current, $weights) <= $leastUs) {
                $chosen = $others;
            }
        }
        if (count($chosen) === count($gains)) {
            return new self(array_values($chosen), $gains, $answers);
        }
        $chosen = array_values($chosen);
        $gains = [];
        foreach ($chosen as $i => $candidate) {
            $gains[] = self::gain($candidate, self::best(array_slice($chosen, 0, $i), $baseUs)[0], $weights);
        }

        return new self($chosen, $gains, self::best($chosen, $baseUs)[1]);
    }

    /**
     * @param  array<int, Candidate>  $chosen
     * @param  list<float>  $baseUs
     * @return array{list<float>, array<int, int>} cost of each use, number of the candidate that answers it
     */
    private static function best(array $chosen, array $baseUs): array
    {
        $answers = [];
        foreach ($chosen as $number => $candidate) {
            foreach ($candidate->costs as $use => $cost) {
                if ($cost < $baseUs[$use]) {
                    $baseUs[$use] = $cost;
                    $answers[$use] = $number;
                }
            }
        }

        return [$baseUs, $answers];
    }

    /**
     * @param  list<float>  $current
     * @param  list<float>  $weights
     */
    private static function gain(Candidate $candidate, array $current, array $weights): float
    {
        $gain = -$candidate->keepUs;
        foreach ($candidate->costs as $use => $cost) {
            if ($cost < $current[$use]) {
                $gain += $weights[$use] * ($current[$use] - $cost);
            }
        }

        return $gain;
    }
}
