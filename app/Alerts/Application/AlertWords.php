<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Alert;
use App\Metrics\Signals\Signal;
use Fulcrion\Core\Alerts\AlertRing;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\Watched;
use Fulcrion\Core\Text\Quantity;

/**
 * Conditions and rings as people say them.
 */
final readonly class AlertWords
{
    public static function condition(Alert $alert, ?Signal $signal): string
    {
        $what = $signal->label ?? $alert->signal;
        $where = match (true) {
            $alert->host !== null => " of {$alert->host}",
            $alert->share !== null => ' of '.Quantity::percent($alert->share).' of the hosts',
            $signal?->isPerHost === true => ' of any host',
            default => '',
        };
        $how = self::value($alert, $alert->threshold, $signal);
        $side = $alert->side === ThresholdSide::Above ? 'or more' : 'or less';
        $for = $alert->for_seconds > 0 ? ' for '.Quantity::duration($alert->for_seconds * 1e6) : '';

        return match ($alert->watched) {
            Watched::Silence => ($alert->host ?? ($signal?->isPerHost === true ? 'Any host' : $what))
                ." has told nothing for {$how}, by {$what}",
            Watched::DaysLeft => "{$what}{$where}: full in {$how} or sooner",
            default => "{$what}{$where}: {$how} {$side}{$for}",
        };
    }

    public static function ring(Alert $alert, AlertRing $ring, ?Signal $signal): string
    {
        $where = $ring->host === '' ? '' : " of {$ring->host}";
        $what = ($signal->label ?? $alert->signal).$where;
        if ($alert->share !== null) {
            return "{$what}: ".Quantity::percent($ring->worst).' of the hosts at '.self::value($alert, $alert->threshold, $signal);
        }
        $worst = self::value($alert, $ring->worst, $signal);

        return match ($alert->watched) {
            Watched::Silence => ($ring->host === '' ? $signal->label ?? $alert->signal : $ring->host)." has told nothing for {$worst}",
            Watched::DaysLeft => ($ring->host === '' ? $what : $ring->host)." is full in {$worst}",
            default => "{$what} at {$worst}",
        };
    }

    public static function value(Alert $alert, float $value, ?Signal $signal): string
    {
        return match ($alert->watched) {
            Watched::Value => $signal?->say($value) ?? Quantity::digits($value),
            Watched::Usual => Quantity::digits($value).' times the usual',
            Watched::DaysLeft => $value >= 3_650.0 ? 'ten years' : Quantity::digits($value).' days',
            Watched::Silence => Quantity::duration($value * 1e6),
        };
    }

    /** What one of the numbers people write stands for. */
    public static function scale(Watched $watched, ?Signal $signal): float
    {
        return match ($watched) {
            Watched::Value => $signal->scale ?? 1.0,
            Watched::Silence => 60.0,
            default => 1.0,
        };
    }

    public static function unit(Watched $watched, ?Signal $signal): string
    {
        return match ($watched) {
            Watched::Value => $signal->unit ?? '',
            Watched::Usual => 'times the usual',
            Watched::DaysLeft => 'days left',
            Watched::Silence => 'minutes of silence',
        };
    }
}
