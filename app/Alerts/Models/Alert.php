<?php

declare(strict_types=1);

namespace App\Alerts\Models;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Alerts\AlertCondition;
use Fulcrion\Core\Alerts\AlertState;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\Watched;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A condition that is held against what comes in.
 *
 * @property int $id
 * @property int $cluster_id
 * @property Cluster $cluster
 * @property string $name
 * @property string $signal
 * @property string|null $host the only one that is watched; null for all
 * @property Watched $watched
 * @property ThresholdSide $side
 * @property float $threshold
 * @property float $calm
 * @property int $for_seconds
 * @property int $calm_seconds
 * @property float|null $share
 * @property bool $is_urgent
 * @property int|null $second_minutes after which somebody else is told, where nobody took it
 * @property int|null $second_user_id
 * @property bool $is_on
 * @property string $made_by
 * @property int|null $judged_to second up to which it was held against what came
 * @property string|null $states of hosts that are not quiet
 * @property string|null $error why it could not be judged
 */
final class Alert extends Model
{
    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return [
            'watched' => Watched::class, 'side' => ThresholdSide::class, 'threshold' => 'float', 'calm' => 'float', 'share' => 'float',
            'is_urgent' => 'bool', 'is_on' => 'bool', 'for_seconds' => 'int', 'calm_seconds' => 'int', 'judged_to' => 'int',
        ];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    public function condition(): AlertCondition
    {
        return new AlertCondition($this->side, $this->threshold, $this->calm, $this->for_seconds, $this->calm_seconds, $this->share);
    }

    /**
     * @return array<array-key, AlertState> by host
     */
    public function course(): array
    {
        $plain = $this->states === null ? [] : json_decode($this->states, true);
        $states = array_map(AlertState::read(...), is_array($plain) ? $plain : []);

        return array_filter($states, static fn (?AlertState $one): bool => $one !== null);
    }

    /**
     * @param  array<array-key, AlertState>  $states
     */
    public static function written(array $states): ?string
    {
        return $states === [] ? null : json_encode(
            (object) array_map(static fn (AlertState $one): array => $one->plain(), $states),
            JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION | JSON_INVALID_UTF8_SUBSTITUTE,
        );
    }
}
