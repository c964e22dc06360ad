from django.apps import AppConfig


class DesignConfig(AppConfig):
    name = "ivoryridge.design"
    label = "design"
