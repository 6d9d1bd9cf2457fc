<?php

declare(strict_types=1);

namespace App\Metrics\Store;

use App\Metrics\Places\KeptPlace;
use App\Metrics\Places\PlaceError;
use App\Metrics\Places\Places;
use App\Platform\Parts\OwnPart;
use App\Platform\Support\Clock;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Whether the host the application runs on is read, and readings can be kept.
 */
final readonly class ReadingsPart
{
    public static function of(): OwnPart
    {
        foreach (KeptPlace::query()->get() as $place) {
            try {
                Places::connected($place);
            } catch (PlaceError $error) {
                return new OwnPart('act', $error->getMessage());
            }
        }
        $last = DB::table('metric_sources')->where('kind', 'own')->max('last_at');
        if ($last === null) {
            return new OwnPart('no data', 'The host it runs on has not been read yet.');
        }
        $seconds = (float) max(0, Clock::seconds() - (int) $last);

        return OwnPart::small($seconds, 60.0, 600.0, 'The host it runs on was read '.Quantity::duration($seconds * 1e6).' ago.',
            ['last_seconds' => $seconds]);
    }
}
