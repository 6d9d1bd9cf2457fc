<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Alert;
use App\Platform\Parts\OwnPart;
use App\Platform\Support\Clock;
use Fulcrion\Core\Text\Quantity;

/**
 * Whether alerts are judged.
 */
final readonly class AlertsPart
{
    public static function of(): OwnPart
    {
        $failing = Alert::query()->where('is_on', true)->whereNotNull('error')->count();
        if ($failing > 0) {
            $said = $failing.' '.($failing === 1 ? 'alert' : 'alerts').' cannot be judged.';

            return new OwnPart('act', $said, ['failing' => (float) $failing]);
        }
        $oldest = Alert::query()->where('is_on', true)->min('judged_to');
        if ($oldest === null) {
            return new OwnPart('calm', 'None is on, or was judged yet.');
        }
        $seconds = (float) max(0, Clock::seconds() - (int) $oldest);

        return OwnPart::small($seconds, 1_500.0, 3_600.0, 'All are judged up to '.Quantity::duration($seconds * 1e6).' ago.',
            ['behind_seconds' => $seconds]);
    }
}
