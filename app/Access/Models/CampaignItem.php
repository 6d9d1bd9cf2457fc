<?php

declare(strict_types=1);

namespace App\Access\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $campaign_id
 * @property string $kind
 * @property string $name
 * @property string $described
 * @property string $state open, certified or revoked
 * @property string|null $decided_by
 * @property int|null $decided_us
 * @property string|null $note
 * @property-read Campaign $campaign
 */
final class CampaignItem extends Model
{
    public $timestamps = false;

    protected $table = 'review_items';

    protected $guarded = ['id'];

    /**
     * @return BelongsTo<Campaign, $this>
     */
    public function campaign(): BelongsTo
    {
        return $this->belongsTo(Campaign::class);
    }
}
