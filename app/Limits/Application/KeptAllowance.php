<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\Money;
use Fulcrion\Core\Limits\AllowanceMeasure;
use Fulcrion\Core\Limits\AllowanceOutlook;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Days;

/**
 * An allowance of a cluster, how it stands and how it goes on.
 */
final readonly class KeptAllowance
{
    /**
     * @param  float|null  $price of one beyond it; null where that is not known
     * @param  Days  $month the present one
     */
    public function __construct(
        public int $id,
        public Cluster $cluster,
        public AllowanceMeasure $measure,
        public AllowanceOutlook $outlook,
        public ?float $price,
        public string $currency,
        public Days $month,
        public string $madeBy,
    ) {
    }

    public function amount(float $amount): string
    {
        return Quantity::short($amount);
    }

    /** What a month costs beyond it: what was, and all that is expected; null where the price is not known. */
    public function cost(bool $isExpected, ?Days $month = null): ?float
    {
        [$was, $will] = $this->outlook->beyond($month ?? $this->month);

        return $this->price === null ? null : $this->price * ($was + ($isExpected ? $will : 0.0));
    }

    public function mark(): string
    {
        return match (true) {
            $this->outlook->known === 0 => 'no data',
            $this->outlook->beyond($this->month)[0] > 0.0 => 'act',
            $this->outlook->runsOut() !== null => 'watch',
            default => 'calm',
        };
    }

    public function standing(): string
    {
        $day = $this->outlook->runsOut();

        return match (true) {
            $this->outlook->known === 0 => 'nothing is known yet',
            $this->outlook->beyond($this->month)[0] > 0.0 => 'used up this month',
            $day !== null => 'used up about '.onUtc($day, MomentStyle::ShortDay),
            default => 'lasts',
        };
    }

    public function sentence(): string
    {
        $left = "{$this->amount($this->outlook->balance())} of {$this->amount($this->outlook->allowance->cap)} {$this->measure->label()} "
            ."are left on {$this->cluster->name}";
        // Of the month in which it begins to cost.
        $day = $this->mark() === 'act' ? $this->month->from : $this->outlook->runsOut() ?? $this->month->from;
        $month = Days::month(gmdate('Y-m', $day));
        $cost = $this->cost(true, $month);

        return $left.match ($this->mark()) {
            'no data' => '; nothing is known yet',
            'calm' => ', which will last',
            default => ': '.($this->mark() === 'act' ? 'they were used up this month' : "they will be {$this->standing()}").
                ($cost === null || $this->outlook->end() < $month->to ? '' : ', and what comes after costs about '.
                    Money::short($cost, $this->currency).' in '.onUtc($month->from, MomentStyle::Month)),
        };
    }
}
