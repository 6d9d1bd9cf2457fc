<?php

declare(strict_types=1);

namespace App\Access\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property string $title
 * @property string $due
 * @property string $made_by
 * @property int $made_us
 * @property int|null $ended_us
 */
final class Campaign extends Model
{
    public $timestamps = false;

    protected $table = 'review_campaigns';

    protected $guarded = ['id'];

    /**
     * @return HasMany<CampaignItem, $this>
     */
    public function items(): HasMany
    {
        return $this->hasMany(CampaignItem::class);
    }
}
