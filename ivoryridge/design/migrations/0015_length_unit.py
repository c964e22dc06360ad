from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("design", "0014_departures_by_row")]

    operations = [
        migrations.AddField(model_name="project", name="length_unit", field=models.CharField(default="m", max_length=5)),
    ]
