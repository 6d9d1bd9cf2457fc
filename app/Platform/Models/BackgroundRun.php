<?php

declare(strict_types=1);

namespace App\Platform\Models;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * Work of a background process that tells from time to time that it goes on; DEAD_US is how long it may be silent.
 */
trait BackgroundRun
{
    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    public function isOver(): bool
    {
        return ! in_array($this->state, ['waiting', 'running'], true) ||
            ($this->state === 'running' && $this->heartbeat_us < Clock::microseconds() - self::DEAD_US);
    }
}
