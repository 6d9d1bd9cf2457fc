<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Platform\Support\MomentStyle;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\HourUse;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\LimitTrial;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;

/**
 * What a limit would have done in the last four weeks, and in the rest of the period they began in.
 */
final readonly class LimitPast
{
    private const DAYS = 28;

    /**
     * @param  list<HourUse>  $hours
     */
    private function __construct(public KeptLimit $limit, public Days $days, public array $hours, public LimitTrial $trial)
    {
    }

    public static function of(KeptLimit $limit, LimitFacts $facts, Calendar $calendar, int $now): self
    {
        $today = $calendar->day($now);
        $from = $limit->limit->period->days($today - self::DAYS * Days::DAY)->from;
        $days = new Days($from, $today + Days::DAY);
        $hours = array_values(array_filter(
            $facts->hours($limit->limit, $days, $limit->currency),
            static fn (HourUse $one): bool => $one->at <= $now,
        ));

        return new self($limit, $days, $hours, LimitTrial::of($limit->limit, $hours));
    }

    public function sentence(): string
    {
        $since = onUtc($this->days->from, MomentStyle::ShortDay);
        $held = (int) round($this->trial->executions());
        if ($this->hours === []) {
            return "Nothing of {$this->limit->whose()} has run since {$since}, so it would have done nothing";
        }
        if ($held === 0) {
            $most = max([0, ...$this->trial->wanted]);

            return "It would have held nothing since {$since}".($this->limit->limit->period === LimitPeriod::Statement ? ''
                : ": at most {$this->limit->amount($most)} were used a {$this->limit->limit->period->value}");
        }
        $periods = count($this->trial->wanted);
        $of = $this->limit->limit->period === LimitPeriod::Statement ? 'days' : "{$this->limit->limit->period->value}s";

        return 'It would have held about '.Quantity::short($held).($held === 1 ? ' statement' : ' statements').' since '.$since.', in '
            .$this->trial->periodsHeld()." of {$periods} {$of}";
    }

    /** When it would have begun to hold in a period; empty where it would not have. */
    public function heldFrom(int $day): string
    {
        foreach ($this->trial->acts as $act) {
            if ($act->day === $day && $act->threshold->act === Act::Hold) {
                return onClocks($act->at, MomentStyle::Minute);
            }
        }

        return '';
    }
}
