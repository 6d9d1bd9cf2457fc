<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Connectors\SourceError;
use App\Telemetry\Events\ServerRead;
use Illuminate\Support\Facades\Log;
use Throwable;

/**
 * Takes down how a server is whenever its statements are read.
 */
final readonly class StateListener
{
    public function __construct(private StateKeeper $keeper)
    {
    }

    public function handle(ServerRead $read): void
    {
        try {
            $this->keeper->read($read->cluster);
        } catch (SourceError) {
            // It was there a moment ago; what is missing is seen as a gap.
        } catch (Throwable $exception) {
            Log::error('The state of a server could not be kept', ['cluster' => $read->cluster->slug, 'exception' => $exception]);
        }
    }
}
